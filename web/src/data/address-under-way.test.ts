import { expect, test } from '@jest/globals'
import { AddressUnderWay } from './address-under-way.ts'

test('a change builds on the latest that is under way, also when an earlier one arrives between', () => {
  const underWay = new AddressUnderWay()
  expect(underWay.base('/cuts', 'q=black&event=3')).toBe('q=black&event=3')
  underWay.start('/cuts', 'q=black')
  underWay.start('/cuts', '')
  underWay.arrived('q=black')
  // The page still stands at the first change: the second must not be undone by a third.
  expect(underWay.base('/cuts', 'q=black')).toBe('')
  underWay.arrived('')
  expect(underWay.base('/cuts', 'sort=name')).toBe('sort=name')
})

test('on another page, or after going back, it counts no more', () => {
  const underWay = new AddressUnderWay()
  underWay.start('/cuts', 'q=black')
  expect(underWay.base('/mend', '')).toBe('')
  underWay.forget()
  expect(underWay.base('/cuts', 'q=wheel')).toBe('q=wheel')
})
