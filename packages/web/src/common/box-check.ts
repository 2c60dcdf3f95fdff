import { boxSchema, type Box } from '@usual-needle/contract';
import { CHECKS } from './box-validators';

/**
 * A box that came from outside, by the contract: an address or a file may hold anything. What can be kept is kept, part by
 * part and item by item; what could not is said.
 */
interface CheckedBox {
  readonly box: Partial<Box>;
  /** The parts that were left out, in words; none if nothing was. */
  readonly leftOut: readonly string[];
}

type BoxPart = keyof Box & keyof typeof boxSchema.properties;

const PROPERTIES: Readonly<Record<string, object>> = boxSchema.properties;
/** Lists of which the items that are right are kept. */
const LISTS: Readonly<Record<string, string>> = {
  threaded: 'columns to search',
  strands: 'strands',
  pickers: 'pickers',
  sort: 'levels of sorting',
  columns: 'columns to show',
};

function isPart(key: string): key is BoxPart {
  return Object.hasOwn(PROPERTIES, key);
}

/**
 * @param parts what may be there; a part that is null stands for one that is not set
 * @param known parts that are looked at
 */
export function checkedBox(parts: unknown, known: ReadonlySet<string> | undefined = undefined): CheckedBox {
  if (parts === null || typeof parts !== 'object' || Array.isArray(parts)) return { box: {}, leftOut: [] };
  const box: Record<string, unknown> = {};
  const leftOut: string[] = [];
  for (const [key, value] of Object.entries(parts)) {
    if (!isPart(key) || (known && !known.has(key))) leftOut.push(`“${key.slice(0, 60)}”`);
    else if (value === null) box[key] = undefined;
    else if (CHECKS[key](value)) box[key] = value;
    else if (key in LISTS && Array.isArray(value)) {
      const { maxItems = Infinity } = PROPERTIES[key] as { maxItems?: number };
      const right = value.filter((item) => CHECKS[`${key} items`](item)).slice(0, maxItems);
      box[key] = right;
      leftOut.push(`${value.length - right.length} of the ${LISTS[key]}`);
    } else leftOut.push(`“${key}”`);
  }
  return { box: box as Partial<Box>, leftOut };
}
