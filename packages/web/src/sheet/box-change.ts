import type { Box, WireChange } from '@usual-needle/contract';

export type Strand = NonNullable<Box['strands']>[number];

/** The strands of a box; there is always a first one, which finds. */
export function strandsOf(box: Box): readonly Strand[] {
  const strands = box.strands ?? [];
  return strands[0]?.verb === 'find' ? strands : [{ verb: 'find', text: '' }, ...strands];
}

function withStrand(box: Box, at: number, edit: (strand: Strand) => Strand): Box {
  return { ...box, strands: strandsOf(box).map((strand, i) => (i === at ? edit(strand) : strand)) };
}

/** A box once a remedy is done: the same change that the engine counted the rows of. */
export function changedBox(box: Box, change: WireChange): Box {
  switch (change.type) {
    case 'replace': {
      const { strand, start, end, text } = change;
      return withStrand(box, strand, (one) => ({
        ...one,
        text: (one.text.slice(0, start) + text + one.text.slice(end)).trim(),
      }));
    }
    case 'thread':
      return { ...box, threaded: [...new Set([...(box.threaded ?? []), ...change.columns])] };
    case 'open':
      return { ...box, pickers: emptied(box, change.picker) };
    case 'need any word':
      return { ...box, need: 'any word' };
    case 'ignore case':
      return { ...box, case: 'ignore' };
    case 'ignore accents':
      return { ...box, accents: 'ignore' };
    case 'match anywhere':
      return { ...box, where: 'anywhere' };
    case 'read as words':
      return withStrand(box, change.strand, (one) => ({ ...one, reading: 'words' }));
    case 'read as plain text':
      return withStrand(box, change.strand, (one) => ({ ...one, reading: 'plain text' }));
    case 'remove strand':
      return { ...box, strands: strandsOf(box).filter((_, i) => i !== change.strand) };
    case 'several':
      // From the end of a text to its start, so that places stay true.
      return [...change.of]
        .sort((a, b) => (b.type === 'replace' ? b.start : -1) - (a.type === 'replace' ? a.start : -1))
        .reduce(changedBox, box);
  }
}

export type Picker = NonNullable<Box['pickers']>[number];

/** The picker stays beside the box, blank. */
function emptied(box: Box, at: number): Picker[] {
  return (box.pickers ?? []).map((picker, i) => (i === at ? blankPicker(picker) : picker));
}

export function blankPicker(picker: Picker): Picker {
  if ('values' in picker) return { ...picker, values: [] };
  if ('days' in picker) return { ...picker, days: { from: '', to: '' } };
  if ('numbers' in picker) return { ...picker, numbers: { from: null, to: null } };
  if ('answer' in picker) return { ...picker, answer: 'either' };
  return { ...picker, letters: [] };
}

/** What a picker asks, as words; empty if it is blank. */
export function pickerWords(picker: Picker): string {
  if ('values' in picker) return picker.values.map((value) => (value === '' ? 'blank' : value)).join(', ');
  if ('days' in picker) return between(picker.days.from, picker.days.to);
  if ('numbers' in picker)
    return between(picker.numbers.from?.toLocaleString() ?? '', picker.numbers.to?.toLocaleString() ?? '');
  if ('answer' in picker) return picker.answer === 'either' ? '' : picker.answer;
  return picker.letters.join(' ').toUpperCase();
}

function between(from: string, to: string): string {
  if (from === '' && to === '') return '';
  if (from === to) return from;
  if (from === '') return `up to ${to}`;
  return to === '' ? `from ${from}` : `${from} to ${to}`;
}
