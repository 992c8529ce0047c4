import { readFileSync, realpathSync, renameSync, statSync, writeFileSync } from 'node:fs'
import { isAbsolute, join, resolve } from 'node:path'
import { type PathMapping, type RecipeCodec, recipeCodecs } from '@ennick/core'
import { z } from 'zod'

/** Where things are and what is allowed, read once from the environment and from settings.json in the data folder. */
export interface Config {
  readonly port: number
  readonly dataFolder: string
  readonly databaseUrl: string
  /** Items that a worker makes at once; null leaves it to the machine. */
  readonly makesAtOnce: number | null
  /** What a worker may encode at most; null leaves it to its encoder. */
  readonly codecs: readonly RecipeCodec[] | null
  /** Where folders of the ledger lie on a worker's machine, when it has them elsewhere. */
  readonly pathMap: readonly PathMapping[]
  /** A worker that says nothing for so long loses its jobs. */
  readonly leaseSeconds: number
  /** A file that nothing has changed for so long is whole: a scan leaves what still grows for later. */
  readonly restSeconds: number
  /** How long a disk may take to say anything before it is left alone. */
  readonly patienceSeconds: number
  /** Whether pictures of what arrives are looked at in the background. */
  readonly looks: boolean
  /** Folders inside which volumes and searches may lie. */
  readonly allowedRoots: readonly string[]
  /** Host names, beside the loopback ones, under which the server may be asked. */
  readonly extraHosts: readonly string[]
}

const settingsShape = z
  .object({
    allowedRoots: z.array(z.string().refine(isAbsolute, 'must be an absolute path')).optional(),
    alsoAllowed: z.array(z.string().refine(isAbsolute, 'must be an absolute path')).optional(),
    hosts: z.array(z.string()).optional(),
  })
  .strict()

export const demoFolder = (dataFolder: string): string => join(dataFolder, 'demo')
export const madeFolder = (dataFolder: string): string => join(dataFolder, 'made')
export const handoffFolder = (dataFolder: string): string => join(dataFolder, 'handoffs')
export const lutFolder = (dataFolder: string): string => join(dataFolder, 'luts')
/** Frames that were looked at: let go when there are many. */
export const frameFolder = (dataFolder: string): string => join(dataFolder, 'frames')
export const pictureFolder = (dataFolder: string): string => join(dataFolder, 'pictures')

/** The data folder that an environment names, where it really lies: a link of its owner's is followed once, here. */
export const namedDataFolder = (environment: NodeJS.ProcessEnv = process.env): string =>
  realIfThere(resolve(environment.ENNICK_DATA || '.ennick'))

/** @throws Error that names the setting which cannot be used. */
export function readConfig(environment: NodeJS.ProcessEnv = process.env): Config {
  const dataFolder = namedDataFolder(environment)
  const databaseUrl = environment.DATABASE_URL
  if (!databaseUrl) throw new Error('DATABASE_URL is not set. Start Ennick with ./ennick start, which sets it.')
  const settings = readSettings(settingsPath(dataFolder))
  const roots = environment.ENNICK_ROOTS?.split(':').filter(Boolean) ??
    settings.allowedRoots ?? ['/media', '/mnt', '/Volumes']
  return {
    port: readPort(environment.ENNICK_PORT),
    dataFolder,
    databaseUrl,
    makesAtOnce: readAtOnce(environment.ENNICK_AT_ONCE),
    codecs: readCodecs(environment.ENNICK_CODECS),
    pathMap: readPathMap(environment.ENNICK_PATH_MAP),
    leaseSeconds: readLease(environment.ENNICK_LEASE_SECONDS),
    restSeconds: readRest(environment.ENNICK_REST_SECONDS),
    patienceSeconds: readPatience(environment.ENNICK_PATIENCE_SECONDS),
    looks: readLooks(environment.ENNICK_LOOK),
    allowedRoots: [demoFolder(dataFolder), ...roots].map((root) => resolve(root)),
    extraHosts: settings.hosts ?? [],
  }
}

/** A person may write it before the first start. */
export const settingsName = 'settings.json'
const settingsPath = (dataFolder: string): string => join(dataFolder, settingsName)

/** Folders that were allowed by `allowFolder`; none while the settings cannot be read, which the next start tells. */
export function alsoAllowed(dataFolder: string): readonly string[] {
  try {
    return readSettings(settingsPath(dataFolder)).alsoAllowed ?? []
  } catch {
    return []
  }
}

/** The folders in which volumes may lie, beside those that `allowFolder` adds: what Ennick makes itself among them. */
export const usedFolders = ({ allowedRoots, dataFolder }: Config): readonly string[] => [
  ...allowedRoots,
  madeFolder(dataFolder),
]

/**
 * Lets volumes lie in a folder, from now on; a running server sees it at once.
 * @returns where it really lies
 * @throws Error in a sentence when it is no folder, or the settings cannot be used
 */
export function allowFolder(dataFolder: string, folder: string): string {
  const path = realIfThere(resolve(folder))
  if (!statSync(path, { throwIfNoEntry: false })?.isDirectory())
    throw new Error(`${folder} is no folder on this machine: nothing was allowed.`)
  const settings = readSettings(settingsPath(dataFolder))
  const allowed = [...new Set([...(settings.alsoAllowed ?? []), path])]
  const part = `${settingsPath(dataFolder)}.${process.pid}`
  writeFileSync(part, `${JSON.stringify({ ...settings, alsoAllowed: allowed }, null, 2)}\n`)
  renameSync(part, settingsPath(dataFolder))
  return path
}

/** A folder of ours may lie behind a link of its owner's; everything below it is judged by where it really lies. */
function realIfThere(path: string): string {
  try {
    return realpathSync(path)
  } catch {
    return path
  }
}

function readAtOnce(text: string | undefined): number | null {
  if (!text) return null
  const count = Number(text)
  if (!Number.isInteger(count) || count < 1 || count > 64)
    throw new Error(`ENNICK_AT_ONCE is "${text}": a number of items from 1 to 64 is needed.`)
  return count
}

function readLease(text: string | undefined): number {
  const seconds = Number(text || 30)
  if (!Number.isInteger(seconds) || seconds < 3 || seconds > 3600)
    throw new Error(`ENNICK_LEASE_SECONDS is "${text}": a number of seconds from 3 to 3600 is needed.`)
  return seconds
}

/** Longer than a disk takes that has to be spun up first, unless something else is said. */
function readPatience(text: string | undefined): number {
  const seconds = Number(text || 20)
  if (!Number.isInteger(seconds) || seconds < 2 || seconds > 600)
    throw new Error(`ENNICK_PATIENCE_SECONDS is "${text}": a number of seconds from 2 to 600 is needed.`)
  return seconds
}

function readRest(text: string | undefined): number {
  const seconds = Number(text || 3)
  if (!Number.isInteger(seconds) || seconds < 0 || seconds > 600)
    throw new Error(`ENNICK_REST_SECONDS is "${text}": a number of seconds from 0 to 600 is needed.`)
  return seconds
}

function readLooks(text: string | undefined): boolean {
  if (text && text !== 'yes' && text !== 'no') throw new Error(`ENNICK_LOOK is "${text}": yes or no is needed.`)
  return text !== 'no'
}

function readCodecs(text: string | undefined): RecipeCodec[] | null {
  if (!text) return null
  return text.split(',').map((word) => {
    const codec = recipeCodecs.find((each) => each === word.trim())
    if (!codec)
      throw new Error(`“${word.trim()}” is no codec that Ennick makes. These are: ${recipeCodecs.join(', ')}.`)
    return codec
  })
}

/** One line for each folder: its path in the ledger, "=", its path here. */
function readPathMap(text: string | undefined): PathMapping[] {
  return (text ?? '')
    .split('\n')
    .filter(Boolean)
    .map((line) => {
      const [from, to, ...more] = line.split('=')
      if (!from || !to || more.length || !isAbsolute(from) || !isAbsolute(to))
        throw new Error(`“${line}” is no way to say where a folder lies: write /its/path/in/Ennick=/its/path/here.`)
      return { from: resolve(from), to: realIfThere(resolve(to)) }
    })
}

export function readPort(text: string | undefined): number {
  const port = Number(text || 4600)
  if (!Number.isInteger(port) || port < 1 || port > 65_535)
    throw new Error(`ENNICK_PORT is "${text}": a port between 1 and 65535 is needed.`)
  return port
}

function readSettings(path: string): z.infer<typeof settingsShape> {
  let text: string
  try {
    text = readFileSync(path, 'utf8')
  } catch {
    return {}
  }
  let settings: unknown
  try {
    settings = JSON.parse(text)
  } catch (error) {
    throw new Error(`${path} cannot be used: it is no JSON. ${(error as Error).message}`)
  }
  const result = settingsShape.safeParse(settings)
  if (!result.success) throw new Error(`${path} cannot be used: ${z.prettifyError(result.error)}`)
  return result.data
}
