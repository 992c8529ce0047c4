import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import type { LedgerKeeper } from './keep-copies.ts'

/** Copies of the ledger. To begin with one is done where Ennick is started: `./ennick start --ledger FILE`. */
export function ledgerRoutes({ app, folders }: Services, keeper: LedgerKeeper): void {
  implement(app, 'listLedgerCopies', () => keeper.present())
  implement(app, 'copyLedger', () => {
    keeper.copyNow()
    return keeper.present()
  })
  implement(app, 'keepLedgerElsewhere', async ({ body }) => {
    await keeper.keepElsewhere(body.folder === null ? null : await folders.resolve(body.folder))
    return keeper.present()
  })
  implementRaw(app, 'takeLedgerCopy', async ({ params }, response) => {
    const path = await keeper.pathOf(params.name)
    response.attachment(params.name).sendFile(path, { dotfiles: 'allow' })
  })
}
