import type { Box } from '@usual-needle/contract';
import { firstText, strandsOf, withFirstText } from './box-change';

/** The state of a search as the query of an address, so that it can be kept, sent and reloaded. */
export interface AddressState {
  /** Text of the first strand. */
  readonly text?: string;
  /** What else differs from the box as it is kept. */
  readonly changes: Partial<Box>;
}

/** Parts of a box that an address can carry. */
const CARRIED = {
  name: 'string', threaded: 'list', reading: 'string', need: 'string', where: 'string', case: 'string', accents: 'string',
  strands: 'list', pickers: 'list', effect: 'string', grain: 'string', nothingTyped: 'string', searches: 'string',
  edited: 'string', flip: 'boolean', sort: 'list', columns: 'list', wording: 'object',
} as const; // prettier-ignore
type Carried = keyof typeof CARRIED;
const CARRIED_KEYS = Object.keys(CARRIED) as Carried[];

/** Null stands for what the kept box has and this one has not. */
function fits(key: Carried, value: unknown): boolean {
  if (value === null) return true;
  if (CARRIED[key] !== 'list') return typeof value === CARRIED[key];
  return Array.isArray(value) && value.every((one) => typeof one === (key === 'threaded' ? 'string' : 'object'));
}

/** @param path path and query, as in `/box/1?q=wood&as={"flip":true}` */
export function readAddress(path: string): AddressState {
  const query = new URLSearchParams(path.split('?').slice(1).join('?'));
  const text = query.get('q') ?? undefined;
  const changes: Record<string, unknown> = {};
  try {
    const carried = JSON.parse(query.get('as') ?? '{}') as Record<string, unknown>;
    for (const key of CARRIED_KEYS) {
      if (key in carried && fits(key, carried[key])) changes[key] = carried[key] ?? undefined;
    }
  } catch {
    // An address cut short still opens the box.
  }
  return { text, changes: changes as Partial<Box> };
}

/** The query that `readAddress` reads back; empty for a box as it is kept, with nothing typed. */
export function writeAddress(box: Box, kept: Box): string {
  const query = new URLSearchParams();
  const [first, ...rest] = strandsOf(box);
  const [keptFirst, ...keptRest] = strandsOf(kept);
  if (first.text !== keptFirst.text) query.set('q', first.text);
  const changes: Record<string, unknown> = {};
  for (const key of CARRIED_KEYS) {
    if (key !== 'strands' && JSON.stringify(box[key]) !== JSON.stringify(kept[key])) changes[key] = box[key] ?? null;
  }
  const own = first.reading !== keptFirst.reading || JSON.stringify(rest) !== JSON.stringify(keptRest);
  if (own) changes['strands'] = [{ ...first, text: '' }, ...rest];
  if (Object.keys(changes).length > 0) query.set('as', JSON.stringify(changes));
  return query.toString();
}

/** The box that an address asks for. */
export function boxAt(kept: Box, { text, changes }: AddressState): Box {
  return withFirstText({ ...kept, ...changes }, text ?? firstText(kept));
}
