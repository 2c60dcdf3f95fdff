/** The ten columns that are searched, and their places in the demo's table. */
import type { ColumnSpec } from '@usual-needle/engine';

export const COLUMNS: ColumnSpec[] = [
  { name: 'Item no.', kind: 'text' },
  { name: 'Description', kind: 'text' },
  { name: 'Category', kind: 'choice' },
  { name: 'Colour', kind: 'choice' },
  { name: 'Marks', kind: 'text' },
  { name: 'Found on', kind: 'date', shown: { date: 'd MMM yyyy' } },
  { name: 'Found at', kind: 'choice' },
  { name: 'Status', kind: 'choice' },
  { name: 'Declared value', kind: 'number' },
  { name: 'Finder’s note', kind: 'text' },
];
export const FROM = [0, 1, 2, 3, 4, 5, 6, 9, 10, 11];
