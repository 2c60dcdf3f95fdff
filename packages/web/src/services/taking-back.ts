import { inject, Injectable } from '@angular/core';
import type { Change, UndoRequest } from '@usual-needle/contract';
import { firstValueFrom } from 'rxjs';
import { errorWords, statusOf } from '../common/error-words';
import { Api } from './api';
import { Person } from './person';
import { type Remark, Remarks } from './remarks';

/** Undoes changes of tables; where later ones stand in the way it says so, and offers to undo what can be. */
@Injectable({ providedIn: 'root' })
export class TakingBack {
  private readonly api = inject(Api);
  private readonly person = inject(Person);
  private readonly remarks = inject(Remarks);

  /** Gives what a remark about a change offers. */
  offer(table: number, number: number): Remark['action'] {
    return { name: 'Undo it', does: () => void this.undo(table, number, () => undefined) };
  }

  /** @param done is called with the change that undoes it @param stuck is called where nothing of it can be undone any more */
  async undo(
    table: number,
    number: number,
    done: (change: Change) => void,
    how: Pick<UndoRequest, 'key' | 'part'> = {},
    stuck: () => void = () => undefined,
  ): Promise<void> {
    const again = (part: boolean) => () => void this.undo(table, number, done, { ...how, part }, stuck);
    try {
      done(await firstValueFrom(this.api.undoChange(table, number, { ...how, ...this.person.asWho() })));
    } catch (error) {
      const refused = statusOf(error) === 409;
      const some = refused && (error as { error?: { part?: boolean } }).error?.part === true;
      const way = some
        ? { name: 'Undo what can be', does: again(true) }
        : { name: 'Try again', does: again(how.part ?? false) };
      this.remarks.say(errorWords(error), refused && !some ? undefined : way);
      if (refused && !some) stuck();
    }
  }
}
