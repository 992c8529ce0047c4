import { describe, expect, test } from '@jest/globals'
import { shotVersion, versionOfFile } from './shot-version.ts'

describe('the version of a shot', () => {
  test.each([
    ['SH010_comp_v003', 'sh010_comp_v#', 3],
    ['sh010-comp.V0012', 'sh010-comp.v#', 12],
    ['SH010_v2_graded', 'sh010_v#_graded', 2],
    ['v7_SH010', 'v#_sh010', 7],
    ['Mix Reel 1 v10', 'mix reel 1 v#', 10],
    // The plate of the second version, comped for the fourth time.
    ['SH010_plate_v02_comp_v04', 'sh010_plate_v02_comp_v#', 4],
    ['SH010_v003_####', 'sh010_v#_####', 3],
  ])('%s', (name, shot, version) => expect(shotVersion(name)).toEqual({ shot, version }))

  test.each(['SH010', 'rev2', 'SH010v3', 'V_003', 'A001C001', 'v', 'SH010_v', 'TV2 interview', 'DV1000', 'v123456'])(
    '%s says nothing of one',
    (name) => expect(shotVersion(name)).toBeNull(),
  )

  test('a file says it before its ending, and stills before their number', () => {
    const names = ['SH010_v2.mov', 'SH010_v2.####.exr', 'SH010_v2_#.dpx']
    expect(new Set(names.map((name) => versionOfFile(name)?.shot)).size).toBe(1)
  })

  test('however it is written, a shot is one shot', () => {
    const shots = ['Fähre_v1', 'FÄHRE_V02', 'fa\u0308hre_v003'].map((name) => shotVersion(name)?.shot)
    expect(new Set(shots).size).toBe(1)
  })
})
