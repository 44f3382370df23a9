import { ref } from 'vue'
import type { DialectName } from '../../core/dialect/dialect.ts'

/** The dialect that migrations were last read in; it stays when the page is left and come back to. */
export const chosenDialect = ref<DialectName>()
