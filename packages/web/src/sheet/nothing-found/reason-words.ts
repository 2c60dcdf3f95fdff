import type { WireReason } from '@usual-needle/contract';
import { listed } from '../../common/sentence';
import { rowsCounted as rows } from '../../services/numbers';

/** The words of a reason, and those on its button. */
interface ReasonWords {
  readonly text: string;
  readonly button: string;
  /** The keyword that it begins with. */
  readonly about: string;
}

function namesOf({ columns = [] }: WireReason): string {
  const names = [...new Set(columns.map(({ column }) => column))];
  return names.length > 4 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : listed(names);
}

/** The words on a change, as a part of a sentence. */
const TOGETHER: Readonly<Record<string, string>> = {
  picker: 'opening the pickers',
  case: 'ignoring case',
  accents: 'ignoring accents',
  position: 'matching anywhere in the cell',
  reading: 'reading the text in another way',
  strand: 'removing a strand',
  'near spelling': 'another spelling',
  signs: 'other signs',
  'other columns': 'further columns',
  unreadable: 'leaving out what cannot be read',
};

export function reasonWords(reason: WireReason): ReasonWords {
  const columns = namesOf(reason);
  const found = rows(reason.found ?? 0);
  const about = reason.keyword ?? '';
  switch (reason.kind) {
    case 'near spelling':
      return {
        about,
        text: `is in no row. Near spelling: ${reason.text}, in ${found}.`,
        button: `Use ${reason.text}`,
      };
    case 'signs':
      return {
        about,
        text: `is in no row as typed. With other signs: ${reason.text}, in ${found}${columns === '' ? '' : ` of ${columns}, which is not searched`}.`,
        button: columns === '' ? `Use ${reason.text}` : `Use ${reason.text}, and thread ${columns}`,
      };
    case 'other columns':
      return {
        about,
        text: `is in ${found}, but only outside the columns searched: ${columns}.`,
        button: `Thread ${columns} too`,
      };
    case 'picker':
      return {
        about: '',
        text: `Narrowing by ${columns} leaves out rows that would match.`,
        button: `Show any ${columns.toLowerCase()}`,
      };
    case 'any word':
      return { about: '', text: 'No row has every keyword.', button: 'Ask for any word' };
    case 'one keyword':
      return {
        about,
        text: reason.found === 0 ? 'is in no row.' : 'is not in one row with the others.',
        button: `Drop ${reason.keyword}`,
      };
    case 'case':
      return { about: '', text: 'Case is minded.', button: 'Ignore case' };
    case 'accents':
      return { about: '', text: 'Accents are minded.', button: 'Ignore accents' };
    case 'position':
      return {
        about: '',
        text: 'Hits have to stand where the sentence says.',
        button: 'Match anywhere in the cell',
      };
    case 'reading':
      return reason.change.type === 'read as plain text'
        ? { about: '', text: 'Signs in the text are read as signs.', button: 'Read as plain text' }
        : { about: '', text: 'The text is not read as words.', button: 'Read as words' };
    case 'strand':
      return { about: '', text: `The strand “${reason.text}” takes the last rows away.`, button: 'Remove it' };
    case 'unreadable':
      return { about: '', text: reason.text ?? '', button: 'Leave it out' };
    case 'together': {
      const parts = (reason.text ?? '').split(', ').map((kind) => TOGETHER[kind] ?? kind);
      return { about: '', text: `Only together: ${listed([...new Set(parts)])}.`, button: 'Do both' };
    }
  }
}
