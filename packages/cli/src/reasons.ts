/** A reason why nothing was found, as a line of prose with its remedy. */
import type { Question, Reason, Table } from '@usual-needle/engine';

const rows = (count: number): string => `${count} ${count === 1 ? 'row' : 'rows'}`;

export function describe(reason: Reason, table: Table, question: Question): string {
  const names = (reason.columns ?? []).map(({ column }) => table.columns[column].name);
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
    case 'one keyword':
      return `“${reason.keyword}” is not in one row with the others. Drop it${gives}`;
    case 'case':
      return `Case is minded. Ignore it${gives}`;
    case 'accents':
      return `Accents are minded. Ignore them${gives}`;
    case 'position':
      return `Hits have to be at the place asked for (${question.settings.where}). Match anywhere${gives}`;
    case 'reading':
      return `The text is not read as words. Read it as words${gives}`;
    case 'strand':
      return `“${question.strands[reason.strand ?? 0].verb}: ${reason.text}” takes the last rows away. Remove it${gives}`;
    case 'unreadable':
      return `${reason.text} Leave it out${gives}`;
    case 'together':
      return `All of the above together${gives}`;
  }
}
