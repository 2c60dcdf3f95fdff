import { computed, inject, Injectable } from '@angular/core';
import type { Box } from '@usual-needle/contract';
import { counted } from '../../services/numbers';
import { Answers } from './answers';
import { SheetStore } from './sheet-store';

/** Gives what is on show where that is not simply what matches; empty where it is, and where every row is. */
function onShowWords(effect: NonNullable<Box['effect']>, flip: boolean, matched: number): string {
  if (effect === 'leave matches out')
    return flip ? 'rows on show: those that are left out' : `rows on show, ${counted(matched)} left out`;
  return flip && effect === 'show only matches' ? `rows on show: the others, ${counted(matched)} match` : '';
}

/** The words at the foot of the sheet: how many rows, of how many, and that every one was searched. */
@Injectable()
export class Status {
  private readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);

  readonly line = computed(() => {
    const answer = this.answers.answer();
    if (!answer) return undefined;
    const { asked, matched, shown, narrowed, total, searched, complete, milliseconds } = answer;
    const isNarrowed = narrowed < total;
    const keywords = answer.keywords.length;
    const columns = this.store.threaded().length;
    const { effect = 'show only matches', flip = false } = this.store.definition();
    const turned = onShowWords(effect, flip, matched);
    return {
      // With nothing typed nothing matches, and nothing is to be said of it.
      matched: `${counted(asked && turned === '' ? matched : shown)} of ${counted(isNarrowed ? narrowed : total)}`,
      noun: `${asked ? (turned === '' ? 'rows match' : turned) : 'rows'}${isNarrowed ? ` (${counted(total)} in all)` : ''}`,
      searched: complete ? 'every row searched' : `${counted(searched)} rows searched so far`,
      milliseconds: `${Math.max(1, Math.round(milliseconds))} ms`,
      asked: asked
        ? `${keywords} ${keywords === 1 ? 'keyword' : 'keywords'} in ${columns} ${columns === 1 ? 'column' : 'columns'}`
        : this.help(),
    };
  });
  /** The help line, which stands once: readers have it under the box, and who is asked to type has it with that. */
  private readonly help = computed(() =>
    this.store.readersView() || this.prompting() ? '' : (this.store.definition().wording?.help ?? ''),
  );
  /** The question that the rows on show answer, where that is not the one that is asked. */
  readonly behind = computed(() => {
    if (!this.answers.slow()) return '';
    const text = this.answers.answered().trim() || 'nothing typed';
    const what = this.answers.textBehind() ? `for “${text}”` : 'from before the last change';
    return `rows on show are ${what}`;
  });
  /** The words for a screen reader. */
  readonly said = computed(() => {
    const line = this.line();
    if (!line || this.answers.behind()) return '';
    const told = line.noun.includes('on show') ? '' : '. Flipped: the others are on show';
    return `${line.matched} ${line.noun}${this.store.definition().flip ? told : ''}`;
  });
  /** Nothing typed, and the box shows nothing then: it asks to be typed into. */
  readonly prompting = computed(() => {
    const answer = this.answers.answer();
    const { nothingTyped, flip } = this.store.definition();
    if (!answer || answer.asked || answer.shown > 0 || answer.narrowed === 0) return false;
    return nothingTyped === 'no row' && !flip;
  });
  readonly nothing = computed(() => {
    const answer = this.answers.answer();
    return answer !== undefined && answer.shown === 0 && !this.prompting();
  });
}
