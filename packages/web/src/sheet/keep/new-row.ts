import type { BoxPicker } from '../state/box-change';

/** Gives what a cell of a new row is to hold so that a picker that is on shows the row; undefined where the picker leaves that open. */
export function givenBy(picker: BoxPicker): string | undefined {
  if ('values' in picker) return picker.values.length === 1 ? picker.values[0] : undefined;
  if ('days' in picker) {
    const { from, to } = picker.days;
    return from === to && /^\d{4}-\d{2}-\d{2}$/.test(from) ? from : undefined;
  }
  if ('numbers' in picker) {
    const { from, to } = picker.numbers;
    return from !== null && from === to ? String(from) : undefined;
  }
  return 'answer' in picker && picker.answer !== 'either' ? picker.answer : undefined;
}
