/** jsdom, with what browsers have and it has not. */
import JSDOMEnvironment from 'jest-environment-jsdom'

const Base = JSDOMEnvironment.default ?? JSDOMEnvironment

export default class BrowserEnvironment extends Base {
  async setup() {
    await super.setup()
    const { global } = this
    for (const name of [
      'TextEncoder',
      'TextDecoder',
      'Request',
      'Response',
      'Headers',
      'fetch',
      'structuredClone',
    ])
      global[name] ??= globalThis[name]
    global.ResizeObserver ??= class {
      observe() {}
      unobserve() {}
      disconnect() {}
    }
    // Nothing is told while a part is tested.
    global.EventSource ??= class extends global.EventTarget {
      close() {}
    }
    const { prototype } = global.Element
    prototype.hasPointerCapture ??= () => false
    prototype.setPointerCapture ??= () => undefined
    prototype.releasePointerCapture ??= () => undefined
    prototype.scrollIntoView ??= () => undefined
  }
}
