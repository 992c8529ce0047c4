export default async function stopDatabase(): Promise<void> {
  await globalThis.ennickTestDatabase?.stop()
}
