import { boxSchema, type Box } from '@usual-needle/contract';
import { firstText, strandsOf, withFirstText } from '../../common/question';
import { checkedBox } from '../../common/box-check';
import { same } from './box-change';
import { shortQuery, wholeQuery } from './long-address';

/** The state of a search as the query of an address, so that it can be kept, sent and reloaded. */
interface AddressState {
  /** Text of the first strand. */
  readonly text?: string;
  /** The parts that differ from the box as it is saved. */
  readonly changes: Partial<Box>;
  /** The parts of the address that could not be read, in words. */
  readonly leftOut: readonly string[];
}

/** Parts of a box that an address does not carry: they are the box file's. */
const NOT_CARRIED = ['format', 'version', 'table'];
const CARRIED = Object.keys(boxSchema.properties).filter((key) => !NOT_CARRIED.includes(key)) as (keyof Box)[];
const CARRIED_SET: ReadonlySet<string> = new Set(CARRIED);
/** A text longer than this is no strand's. */
const LONGEST_TEXT = 20_000;

/** @param path path and query, as in `/box/1?q=wood&as={"flip":true}` */
export function readAddress(path: string): AddressState {
  const whole = wholeQuery(path.split('?').slice(1).join('?'));
  if (whole === undefined)
    return {
      changes: {},
      leftOut: ['what was too long for an address: it is kept in the browser that it was made in'],
    };
  const query = new URLSearchParams(whole);
  const text = query.get('q')?.slice(0, LONGEST_TEXT);
  const as = query.get('as');
  if (as === null) return { text, changes: {}, leftOut: [] };
  try {
    const { box, leftOut } = checkedBox(JSON.parse(as), CARRIED_SET);
    return { text, changes: box, leftOut };
  } catch {
    // An address cut short still opens the box.
    return { text, changes: {}, leftOut: ['all but its text'] };
  }
}

/** The query that `readAddress` reads back, which names what is too long for it; empty for a box as it is saved, with nothing typed. */
export function writeAddress(box: Box, saved: Box): string {
  const query = new URLSearchParams();
  const [first, ...rest] = strandsOf(box);
  const [savedFirst, ...savedRest] = strandsOf(saved);
  if (first.text !== savedFirst.text) query.set('q', first.text);
  const changes: Record<string, unknown> = {};
  for (const key of CARRIED) {
    if (key !== 'strands' && !same(box[key], saved[key])) changes[key] = box[key] ?? null;
  }
  const own = first.reading !== savedFirst.reading || !same(rest, savedRest);
  if (own) changes['strands'] = [{ ...first, text: '' }, ...rest];
  if (Object.keys(changes).length > 0) query.set('as', JSON.stringify(changes));
  return shortQuery(query.toString());
}

/** The box that an address asks for. */
export function boxAt(saved: Box, { text, changes }: Pick<AddressState, 'text' | 'changes'>): Box {
  return withFirstText({ ...saved, ...changes }, text ?? firstText(saved));
}
