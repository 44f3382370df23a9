import { wordsOf } from '../../naming/names.ts'
import type { Rule } from '../finding.ts'

const MONEY = new Set([
  'price',
  'prices',
  'cost',
  'costs',
  'amount',
  'fee',
  'fees',
  'total',
  'subtotal',
  'balance',
  'salary',
  'wage',
  'wages',
  'payment',
  'discount',
  'tax',
  'vat',
  'money',
  'budget',
  'invoice',
  'refund',
  'deposit',
  'donation'
])

/** Floating point holds no tenth exactly (IEEE 754), so that sums of money come out a penny wrong. */
export const floatMoney: Rule = {
  name: 'money in floating point',
  find: (table) =>
    table.columns
      .filter(
        (column) =>
          column.type.kind === 'float' && wordsOf(column.name).some((word) => MONEY.has(word.toLowerCase()))
      )
      .map((column) => ({
        severity: 'wrong',
        column: column.id,
        message: `${column.name} looks like money, and floating point cannot hold 0.10 exactly: sums come out wrong.`,
        fix: {
          label: 'Make it decimal(10,2)',
          operation: {
            kind: 'column.retype',
            table: table.id,
            column: column.id,
            type: { kind: 'decimal', precision: 10, scale: 2 }
          }
        }
      }))
}
