import { describe, expect, it } from 'vitest'

import { askWhich, conflict, differences } from './useConflict'

describe('two versions of one record', () => {
  it('shows what differs, a level deep, and nothing else', () => {
    const mine = { kind: 'lens', values: { name: 'Old 85', mass_g: 410 }, version: 3 }
    const theirs = { id: 7, kind: 'lens', version: 4, values: { name: 'Old 85', mass_g: 430, focal_mm: 85 } }
    expect(differences(mine, theirs)).toEqual([{ name: 'mass g', mine: '410', theirs: '430' }])
  })

  it('waits for the choice and then asks no more', async () => {
    const asked = askWhich({ name: 'a' }, { name: 'b' })
    expect(conflict.value?.theirs.name).toBe('b')
    conflict.value?.decide('theirs')
    expect(await asked).toBe('theirs')
    expect(conflict.value).toBeNull()
  })
})
