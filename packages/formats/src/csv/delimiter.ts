/** The sign that parts the cells of a file: the one by which its first lines have the most cells, and all as many. */
import Papa from 'papaparse';

/** Signs that are looked for, the commonest first. */
export const DELIMITERS = [',', ';', '\t', '|'] as const;

/** Lines that are looked at. */
const LINES = 20;

function lengths(head: string, delimiter: string): number[] {
  const { data } = Papa.parse<string[]>(head, { delimiter, preview: LINES, skipEmptyLines: 'greedy' });
  return data.map((record) => record.length);
}

/** @param head the beginning of a file; its last line may be cut short */
export function delimiterOf(head: string): string {
  let best: string = DELIMITERS[0];
  let most = 1;
  for (const delimiter of DELIMITERS) {
    // A line that is cut short tells nothing.
    const all = lengths(head, delimiter);
    const whole = all.length > 1 ? all.slice(0, -1) : all;
    const [first = 1] = whole;
    const agree = whole.filter((length) => length === first).length;
    if (first > most && agree >= whole.length * 0.9) {
      best = delimiter;
      most = first;
    }
  }
  return best;
}
