import { z } from 'zod'
import { ledgerCopies } from '../ledger.ts'
import { route } from './define.ts'

/** Copies of the ledger itself, by which it outlives its disk. */
export const ledgerRoutes = {
  listLedgerCopies: route('GET', '/api/ledger', 'The copies of the ledger, and where they lie', {
    response: ledgerCopies,
  }),
  copyLedger: route('POST', '/api/ledger/copies', 'Begin a copy of the ledger now', { response: ledgerCopies }),
  keepLedgerElsewhere: route('PUT', '/api/ledger/elsewhere', 'Choose a second place for each copy, or none', {
    body: z.object({ folder: z.string().min(1).nullable() }),
    response: ledgerCopies,
  }),
  takeLedgerCopy: route('GET', '/api/ledger/copies/:name', 'A copy of the ledger, as a file to keep', {
    params: z.object({ name: z.string() }),
    mediaType: 'application/zip',
  }),
}
