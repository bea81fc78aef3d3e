/** Tells whoever keeps this process running that its event loop turns. */
const EVERY_MS = 2000

export function startLifeSign(): void {
  if (!process.send) return // started by hand
  setInterval(() => process.send?.('alive'), EVERY_MS).unref()
  process.channel?.unref() // listening for nothing, it must not keep us from ending
}
