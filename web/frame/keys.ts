/** What can be pressed, and where. */
interface KeyGroup {
  where: string
  /** The screens that it is of; of all where none is named. */
  screens?: readonly string[]
  keys: readonly (readonly [press: string, does: string])[]
}

export const KEY_GROUPS: readonly KeyGroup[] = [
  {
    where: 'everywhere',
    keys: [
      ['/', 'find a table or a column, or make a table'],
      ['Ctrl Z', 'take back; Ctrl Shift Z does it again'],
      ['Alt 1 … 7', 'bench, ledger, diagram, rows, versions, outputs, findings'],
      ['Alt Page Down', 'the next design that is open'],
      ['?', 'this page']
    ]
  },
  {
    where: 'on a line',
    screens: ['bench', 'ledger'],
    keys: [
      ['↑ ↓', 'the line above or below; with Shift, several'],
      ['Enter', 'write in it; Tab goes on to type, required, default and note'],
      ['N', 'a new line below; from the key on, the last'],
      ['Space', 'required, or not'],
      ['K', 'the lines chosen become the key, in their order'],
      ['U, I, C', 'unique, an index, a check'],
      ['Alt ↑ ↓', 'the line goes up or down; the mouse drags it by its mark'],
      ['D', 'the line again; with Shift, the table'],
      ['Del', 'remove it'],
      ['F', 'mend what was found here'],
      ['G', 'to the table that the line refers to'],
      ['Q', 'the SQL of this table']
    ]
  },
  {
    where: 'in a type',
    screens: ['bench', 'ledger'],
    keys: [
      ['> table', 'refers to that table, by its whole key'],
      ["enum('a', 'b')", 'a list of values of its own'],
      ['computed …', 'in the default: worked out from the row; copied … from what it refers to'],
      ['now on change', 'in the default: when a row is made, and again with each change of it']
    ]
  },
  {
    where: 'along keys',
    screens: ['bench'],
    keys: [
      ['← →', 'what this table refers to, what refers to it'],
      ['Enter', 'brings that table to the middle'],
      ['⌫', 'back along the trail'],
      ['R', 'relate this table to another'],
      ['W', 'its rows, pulled up under the bench'],
      ['M', 'change your mind about it or about the relationship that you are on']
    ]
  },
  {
    where: 'in the ledger',
    screens: ['ledger'],
    keys: [
      ['T', 'a new table'],
      ['Z', 'fold a table; with Shift, all'],
      ['R', 'relate this table to another']
    ]
  },
  {
    where: 'in rows',
    screens: ['rows'],
    keys: [
      ['arrows', 'from cell to cell; past the first or last, to what stands beside'],
      ['Enter', 'write in a cell; so does typing'],
      ['Insert', 'a new row'],
      [
        'Ctrl C, Ctrl V',
        'the rows chosen as lines with tabs; a block of such lines over the cells from here on'
      ],
      ['Alt S', 'order by the column that you are in; again the other way, again as they stand'],
      ['Shift ↑ ↓', 'several rows'],
      ['Del', 'try deleting them: what goes with them is shown first'],
      ['⌫', 'back along the trail']
    ]
  },
  {
    where: 'in a rehearsal',
    screens: ['rows'],
    keys: [
      ['← →', 'a step back, a step on'],
      ['Enter', 'keep it'],
      ['Esc', 'put it back']
    ]
  },
  {
    where: 'in the diagram',
    screens: ['diagram'],
    keys: [
      ['arrows', 'the nearest table that way; with Alt they move the table'],
      ['Enter', 'takes it to the bench'],
      ['1, 2, 0', 'what is near it, one or two references far; all again'],
      ['D', 'lights up what deleting from it can touch'],
      ['K', 'lights up every place that its key reaches'],
      ['W', 'and W at another: lights up the shortest ways between'],
      [', .', 'the change before or after, where two states are compared']
    ]
  }
]
