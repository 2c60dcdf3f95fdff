/** A reason why nothing was found, as a line of prose with its remedy. */
import type { WireQuestion, WireReason } from '@usual-needle/contract';

const rows = (count: number): string => `${count} ${count === 1 ? 'row' : 'rows'}`;

export function describe(reason: WireReason, question: WireQuestion): string {
  const names = (reason.columns ?? []).map(({ column }) => column);
  const gives = ` → ${rows(reason.rows)}`;
  switch (reason.kind) {
    case 'near spelling':
      return `“${reason.keyword}” is in no row. Near spelling: ${reason.text}, in ${rows(reason.found ?? 0)}. Use it${gives}`;
    case 'other columns':
      return `“${reason.keyword}” is in ${rows(reason.found ?? 0)}, but only in ${names.join(', ')}. Search there too${gives}`;
    case 'picker':
      return `Narrowing by ${names.join(', ')} leaves out rows that would match. Open it${gives}`;
    case 'any word':
      return `Every keyword is asked for. Ask for any word${gives}`;
    case 'signs':
      return `“${reason.keyword}” has the letters of ${reason.text}, in ${rows(reason.found ?? 0)}. Use it${gives}`;
    case 'one keyword':
      return reason.found === 0
        ? `“${reason.keyword}” is in no row. Drop it${gives}`
        : `“${reason.keyword}” is not in one row with the others. Drop it${gives}`;
    case 'case':
      return `Case is minded. Ignore it${gives}`;
    case 'accents':
      return `Accents are minded. Ignore them${gives}`;
    case 'position':
      return `Hits have to be at the place asked for (${question.where}). Match anywhere${gives}`;
    case 'reading':
      return reason.change.type === 'read as plain text'
        ? `Signs in the text are read as signs. Read it as plain text${gives}`
        : `The text is not read as words. Read it as words${gives}`;
    case 'strand':
      return `“${question.strands?.[reason.strand ?? 0]?.verb ?? 'find'}: ${reason.text}” takes the last rows away. Remove it${gives}`;
    case 'unreadable':
      return `${reason.text} Leave it out${gives}`;
    case 'together':
      return `Only together they help: ${reason.text}. Change them all${gives}`;
  }
}
