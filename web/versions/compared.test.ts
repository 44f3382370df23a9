import { computed, nextTick, ref, shallowRef } from 'vue'
import { describe, expect, it } from 'vitest'
import { comparedIn } from './compared.ts'

describe('between which states one looks', () => {
  it('is from the last version to the draft at first, and where one was when one comes back', () => {
    const last = ref<number | undefined>(3)
    const first = comparedIn('d_one', last)
    expect([first.from.value, first.to.value]).toEqual([3, 'draft'])
    expect(comparedIn('d_one', last).from.value).toBe(3)
    first.from.value = 1
    first.to.value = 2
    return nextTick().then(() => {
      const again = comparedIn('d_one', last)
      expect([again.from.value, again.to.value]).toEqual([1, 2])
      expect(comparedIn('d_other', last).from.value).toBe(3)
    })
  })

  it('goes on to the version that is the last by now, for who looked from the last', async () => {
    const last = shallowRef<number | undefined>()
    const { from } = comparedIn(
      'd_new',
      computed(() => last.value)
    )
    expect(from.value).toBeUndefined()
    last.value = 1
    await nextTick()
    expect(from.value).toBe(1)
    expect(comparedIn('d_new', ref(2)).from.value).toBe(2)
  })
})
