import { nextTick, ref } from 'vue'
import { describe, expect, it } from 'vitest'
import { comparedIn, type Compared } from './compared.ts'

const states = ({ from, to }: Compared): unknown[] => [from.value, to.value]

describe('between which states one looks', () => {
  it('is from the last version to the draft at first, and as was chosen when one comes back', () => {
    const last = ref<number | undefined>(3)
    const first = comparedIn('d_one', last)
    expect(states(first)).toEqual([3, 'draft'])
    first.choose({ from: 1 })
    first.choose({ to: 2 })
    expect(states(first)).toEqual([1, 2])
    expect(states(comparedIn('d_one', last))).toEqual([1, 2])
    expect(states(comparedIn('d_other', last))).toEqual([3, 'draft'])
  })

  it('is what was shown only for now, whatever was chosen before', () => {
    const last = ref<number | undefined>(3)
    const first = comparedIn('d_shown', last)
    first.choose({ from: 1 })
    first.show(2, 3)
    expect(states(first)).toEqual([2, 3])
    expect(states(comparedIn('d_shown', last))).toEqual([3, 'draft'])
  })

  it('goes on to the version that is the last by now, for who chose the last', async () => {
    const last = ref<number | undefined>()
    const first = comparedIn('d_new', last)
    expect(first.from.value).toBeUndefined()
    last.value = 1
    await nextTick()
    expect(first.from.value).toBe(1)
    first.choose({ to: 'draft' })
    expect(comparedIn('d_new', ref(2)).from.value).toBe(2)
  })
})
