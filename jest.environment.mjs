import { constants, createContext } from 'node:vm'
import { TestEnvironment } from 'jest-environment-node'

/**
 * Jest's environment for node with a plain global object. Jest's own is a proxy, through which every `Math` and `Number`
 * of a test and of all that it loads is looked up: code that counts runs several times slower there.
 */
export default class PlainEnvironment extends TestEnvironment {
  constructor(config, context) {
    super(config, context)
    const proxied = this.global
    const plain = createContext(constants.DONT_CONTEXTIFY)
    // What the language has each global has of its own, but for what Jest shares with node itself.
    const shared = new Set(['Buffer', 'ArrayBuffer', 'Uint8Array'])
    const own = new Set(Object.getOwnPropertyNames(plain).filter((name) => !shared.has(name)))
    for (const [name, descriptor] of Object.entries(Object.getOwnPropertyDescriptors(proxied)))
      if (!own.has(name)) Object.defineProperty(plain, name, descriptor)
    plain.global = plain
    plain.Error.stackTraceLimit = proxied.Error.stackTraceLimit
    this.context = plain
    this.global = plain
  }
}
