import { execFile } from 'node:child_process'
import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { project, type Result, run, say } from './measure.ts'

const catalogue = 100_000

/** Looking at a clip's pictures against decoding it whole, and asking a large catalogue which clip shows the same. */
export async function benchSignature(folder: string): Promise<Result[]> {
  say('The signature of a clip')
  const path = join(folder, 'signature', 'S001C001.mov')
  await mkdir(join(folder, 'signature'), { recursive: true })
  await run('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=1920x1080:r=25,noise=alls=8:allf=t,trim=end_frame=750'],
    ...['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '25', path],
  ])
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--import', 'tsx', 'server/src/testing/signature.ts', path, String(catalogue)],
    { cwd: project },
  )
  const { look, decode, find } = JSON.parse(stdout) as { look: number; decode: number; find: number }
  say(`  looked at in ${look.toFixed(2)} s, decoded whole in ${decode.toFixed(2)} s`)
  return [
    {
      id: 'signature',
      what: 'Taking the signature of a clip of 30 seconds, against decoding it whole',
      ratio: look / decode,
      limit: 0.35,
    },
    {
      id: 'signature-find',
      what: `Which of ${catalogue} clips shows the same, against 0.1 seconds`,
      ratio: find / 0.1,
      limit: 1,
    },
  ]
}
