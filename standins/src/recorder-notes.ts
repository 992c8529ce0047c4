import { readFile, writeFile } from 'node:fs/promises'

export interface RecordedNotes {
  readonly project: string
  readonly tape: string
  readonly scene: string
  readonly take: string
  readonly circled: boolean
  readonly note: string
  readonly tracks: readonly string[]
  /** Samples since midnight, at 48 kHz. */
  readonly timeReference: number
}

/** Adds an iXML chunk to a WAV file, as sound recorders do. */
export async function addIxml(path: string, notes: RecordedNotes): Promise<void> {
  const wave = await readFile(path)
  const text = Buffer.from(ixml(notes))
  const chunk = Buffer.alloc(8 + text.length + (text.length % 2))
  chunk.write('iXML', 0, 'latin1')
  chunk.writeUInt32LE(text.length, 4)
  text.copy(chunk, 8)
  const whole = Buffer.concat([wave, chunk])
  whole.writeUInt32LE(whole.length - 8, 4)
  await writeFile(path, whole)
}

function ixml(notes: RecordedNotes): string {
  const tracks = notes.tracks.map(
    (name, index) =>
      `<TRACK><CHANNEL_INDEX>${index + 1}</CHANNEL_INDEX><INTERLEAVE_INDEX>${index + 1}</INTERLEAVE_INDEX><NAME>${name}</NAME></TRACK>`,
  )
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<BWFXML>',
    '<IXML_VERSION>1.61</IXML_VERSION>',
    `<PROJECT>${notes.project}</PROJECT><SCENE>${notes.scene}</SCENE><TAKE>${notes.take}</TAKE><TAPE>${notes.tape}</TAPE>`,
    `<CIRCLED>${notes.circled ? 'TRUE' : 'FALSE'}</CIRCLED><NOTE>${notes.note}</NOTE>`,
    '<SPEED><MASTER_SPEED>25/1</MASTER_SPEED><CURRENT_SPEED>25/1</CURRENT_SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG>',
    '<FILE_SAMPLE_RATE>48000</FILE_SAMPLE_RATE><TIMESTAMP_SAMPLE_RATE>48000</TIMESTAMP_SAMPLE_RATE>',
    `<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>${Math.floor(notes.timeReference / 2 ** 32)}</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>`,
    `<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>${notes.timeReference % 2 ** 32}</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED>`,
    `<TRACK_LIST><TRACK_COUNT>${notes.tracks.length}</TRACK_COUNT>${tracks.join('')}</TRACK_LIST>`,
    '</BWFXML>',
  ].join('\n')
}
