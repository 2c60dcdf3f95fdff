/** An action was asked for that the scope of its asker does not have. */
import type { Action } from '@usual-needle/contract';

/** Each action, as it is named where it is refused. */
const NAMED: Readonly<Record<Action, string>> = {
  thread: 'Choosing where to look',
  'change readings': 'Changing how the text is read',
  'change the effect': 'Changing what becomes of matches',
  narrow: 'Narrowing',
  sort: 'Sorting',
  flip: 'Showing the others',
  'take out': 'Taking rows out',
  edit: 'Editing',
  add: 'Adding rows',
  remove: 'Removing rows',
  'bring in': 'Changing the table itself',
  'change the box': 'Changing the box',
  share: 'Sharing',
  'see history': 'The history',
  'see misses': 'The list of what was not found',
};

export class NotAllowed extends Error {
  constructor(action: Action, message = `${NAMED[action]} is not open to you here.`) {
    super(message);
  }
}
