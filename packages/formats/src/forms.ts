/** The forms in which rows are taken out, as they are called on the way: nothing here writes one. */
import type { TakeOutForm } from '@usual-needle/contract';

interface Form {
  /** Media type, as in HTTP. */
  readonly type: string;
  /** The end of a file's name. */
  readonly extension: string;
}

export const FORMS: Readonly<Record<TakeOutForm, Form>> = {
  csv: { type: 'text/csv; charset=utf-8', extension: 'csv' },
  json: { type: 'application/json; charset=utf-8', extension: 'json' },
  ndjson: { type: 'application/x-ndjson; charset=utf-8', extension: 'ndjson' },
  xlsx: {
    type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    extension: 'xlsx',
  },
  page: { type: 'text/html; charset=utf-8', extension: 'html' },
  'take-away': { type: 'text/html; charset=utf-8', extension: 'html' },
};
