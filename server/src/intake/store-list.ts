import { type ChecksummedFile, isPassedOver } from '@ennick/core'
import { readText, StoreTrouble } from '../engine/download.ts'
import { mostCharacters, NotRead, readApart } from '../reading/read-apart.ts'
import { historyFolder, isOfHistory } from './manifest-history.ts'

/** A list of files that lie in a store which is reached by its address. */
export interface StoreList {
  /** Without what gives leave to read it. */
  readonly name: string
  readonly files: readonly ChecksummedFile[]
  /** Files that it names and nobody fetches: hidden ones, and the store's own history of manifests. */
  readonly passedOver: readonly string[]
  addressOf(file: ChecksummedFile): URL
}

/**
 * Reads the list at an address; what it names lies in the folder that it lies in, or, for one in a folder of manifests
 * (ASC MHL specification 2.0, “ascmhl folder”), in the folder above that.
 * @throws StoreTrouble with a sentence that says what, of which address
 */
export async function readStoreList(text: string, signal: AbortSignal): Promise<StoreList> {
  const address = parseAddress(text)
  const name = withoutLeave(address)
  const about = (message: string): StoreTrouble => new StoreTrouble(`${name}: ${message}`)
  let files: ChecksummedFile[]
  try {
    files = await readApart('checksums', { text: await readText(address, mostCharacters, signal) }, { signal })
  } catch (error) {
    if (error instanceof StoreTrouble || error instanceof NotRead) throw about(error.message)
    throw error
  }
  const isFetched = ({ path }: ChecksummedFile): boolean => !isOfHistory(path) && !path.split('/').some(isPassedOver)
  const folder = address.pathname.split('/').slice(0, -1)
  if (folder.at(-1) === historyFolder) folder.pop()
  return {
    name,
    files: files.filter(isFetched),
    passedOver: files.filter((file) => !isFetched(file)).map(({ path }) => path),
    addressOf({ path }) {
      const file = new URL(address)
      file.pathname = [...folder, ...path.split('/').map(encodeURIComponent)].join('/')
      return file
    },
  }
}

/**
 * An address that Ennick reads from.
 * @throws StoreTrouble
 */
function parseAddress(text: string): URL {
  const address = URL.canParse(text.trim()) ? new URL(text.trim()) : null
  if (!address || !['http:', 'https:'].includes(address.protocol))
    throw new StoreTrouble(`“${text.trim()}” is no address: it begins with https:// or http://, and names the list.`)
  if (address.username || address.password)
    throw new StoreTrouble(
      'The address has a user name or a password in it, which would be kept with the job for everybody to read. ' +
        'Ask for a link that gives leave by itself, or mount the store as a share and add that.',
    )
  address.hash = ''
  return address
}

/** What may follow a question mark gives leave to read, and is nobody’s business. */
export const withoutLeave = (address: URL | string): string => String(address).replace(/[?#].*$/s, '')
