import { expect, test } from '@jest/globals'
import type { Request, Response } from 'express'
import { guard } from './guard.ts'

/** What becomes of a request to a server on port 4600, for which two names are set. */
function answered(host: string | undefined, origin?: string): string {
  const request = { headers: { ...(host !== undefined && { host }), ...(origin !== undefined && { origin }) } }
  let passed = false
  try {
    guard(4600, ['mill.local', 'Proxy.example:8443'])(request as Request, {} as Response, () => {
      passed = true
    })
  } catch (error) {
    return (error as { code: string }).code
  }
  return passed ? 'passed' : 'nothing'
}

test.each([
  ['127.0.0.1:4600', 'http://127.0.0.1:4600'],
  ['[::1]:4600', 'http://[::1]:4600'],
  // Through a tunnel that ends at another port of the person's own machine.
  ['localhost:8080', 'http://localhost:8080'],
  ['localhost', 'http://localhost'],
  // Behind a server that hands requests on, with the name that it was called by or with ours.
  ['mill.local', 'https://mill.local'],
  ['MILL.local:9000', 'http://mill.local:9000'],
  ['127.0.0.1:4600', 'https://mill.local'],
  ['127.0.0.1:4600', 'https://proxy.example:8443'],
  ['proxy.example:8443', 'https://Proxy.example:8443'],
])('its own page at %s may ask, as %s', (host, origin) => {
  expect([answered(host), answered(host, origin)]).toEqual(['passed', 'passed'])
})

test.each([
  [undefined, 'foreign-host'],
  ['evil.example', 'foreign-host'],
  ['evil.example:4600', 'foreign-host'],
  ['localhost.evil.example:4600', 'foreign-host'],
  ['127.0.0.1.evil.example:4600', 'foreign-host'],
  ['127.0.0.1:4600@evil.example', 'foreign-host'],
  ['mill.local.evil.example', 'foreign-host'],
  ['evil.example:4600:4600', 'foreign-host'],
])('whoever calls it %s gets no answer', (host, code) => {
  expect(answered(host)).toBe(code)
})

test.each([
  ['127.0.0.1:4600', 'http://evil.example'],
  ['127.0.0.1:4600', 'null'],
  ['127.0.0.1:4600', ''],
  // Another page on the person's own machine, or of the same name.
  ['127.0.0.1:4600', 'http://127.0.0.1:3000'],
  ['localhost:4600', 'http://localhost'],
  ['127.0.0.1:4600', 'https://mill.local:9000'],
  ['mill.local', 'https://mill.local:9000'],
  ['proxy.example:8443', 'https://proxy.example'],
  ['127.0.0.1:4600', 'file://127.0.0.1:4600'],
  ['127.0.0.1:4600', 'http://127.0.0.1:4600.evil.example'],
])('at %s a page from %s may ask nothing', (host, origin) => {
  expect(answered(host, origin)).toBe('foreign-origin')
})
