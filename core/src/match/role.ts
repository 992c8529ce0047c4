/** What a file is for. Only originals are ever resolved to, proposed or chosen by Ennick itself. */
export type FileRole = 'original' | 'proxy' | 'optimized' | 'deliverable'

/** What speaks for a role, from the strongest to the weakest. */
export interface RoleSigns {
  /** What a person said of this file, its folder or its volume. */
  readonly declared: { readonly role: FileRole; readonly where: string } | null
  /** What it was made by, when it, or another file of the very same content, is in the ledger as made or adopted. */
  readonly tied: { readonly role: FileRole; readonly name: string } | null
  /** The recipe that is named inside the file. */
  readonly madeBy: string | null
  /** Whether it lies where only proxies come. */
  readonly isAmongProxies: boolean
  /** The larger file of which it is a smaller twin: named after it, with its timecode and length. */
  readonly twinOf: string | null
}

/** The role of a file, with the reason in a sentence; an original needs none. */
export function roleOf(signs: RoleSigns): { role: FileRole; reason: string | null } {
  const { declared, tied, madeBy, isAmongProxies, twinOf } = signs
  if (declared)
    return { role: declared.role, reason: declared.role === 'original' ? null : `${declared.where} holds no originals` }
  if (tied)
    return {
      role: tied.role,
      reason: `its content is that of ${tied.name}, which is in the ledger as ${article(tied.role)}`,
    }
  if (madeBy) return { role: 'proxy', reason: `it says of itself that it was made by the recipe “${madeBy}”` }
  if (isAmongProxies) return { role: 'proxy', reason: 'it lies where proxies come in' }
  if (twinOf) return { role: 'proxy', reason: `it is a smaller twin of ${twinOf}` }
  return { role: 'original', reason: null }
}

const article = (role: FileRole): string => (role === 'optimized' ? 'an optimized transcode' : `a ${role}`)
