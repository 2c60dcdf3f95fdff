import { computed, inject, Injectable } from '@angular/core';
import { BOX_DEFAULTS, type AnswerStrand, type MarkTuple } from '@usual-needle/contract';
import { type Notice, parse, type Settings } from '@usual-needle/engine';
import { cellParts } from '../../common/cell-parts';
import { counted } from '../../services/numbers';
import { Answers } from '../state/answers';
import { MOST_STRANDS, SheetStore } from '../state/sheet-store';

function tallyWords({ added, removed }: AnswerStrand): string {
  return `${added > 0 ? `+${counted(added)}` : `−${counted(removed)}`}  leaves`;
}

/** A strand's text with what may have been meant in place of what a notice is about, and the words of the button that puts it there. */
function insteadOf(text: string, notice: Notice | undefined): { text: string; does: string } | undefined {
  if (notice?.instead === undefined) return undefined;
  const { start, end, instead } = notice;
  return {
    text: text.slice(0, start) + instead + text.slice(end),
    does: instead === '' ? 'Leave it out' : `Use ${instead}`,
  };
}

/** The strands of the box as they are drawn: cut at their keywords, with their counts and what there is to say of them. */
@Injectable()
export class Lines {
  private readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);

  private readonly onEnter = computed(() => this.store.definition().searches === 'on Enter');
  /** True while what is typed waits for Enter. */
  readonly waits = computed(() => this.onEnter() && this.answers.textBehind());
  private readonly settings = computed<Settings>(() => {
    const box = this.store.definition();
    return {
      need: box.need ?? BOX_DEFAULTS.need,
      where: box.where ?? BOX_DEFAULTS.where,
      case: box.case ?? BOX_DEFAULTS.case,
      accents: box.accents ?? BOX_DEFAULTS.accents,
    };
  });
  /** Each strand as the engine reads it. */
  private readonly read = computed(() => {
    const columns = this.store.table()?.columns ?? [];
    let before = 0;
    return this.answers.strands().map((strand) => {
      const { text, verb, reading = BOX_DEFAULTS.reading } = strand;
      const { keywords, problem, notices } = parse(text, this.settings(), columns, reading);
      const drawn = verb === 'minus' ? [] : keywords.filter(({ number }) => number > 0);
      const marks = drawn.map(({ number, start, end }): MarkTuple => [0, start, end, before + number]);
      before += drawn.length;
      return {
        strand,
        parts: cellParts(text, marks),
        problem: problem?.message ?? '',
        notice: notices[0]?.message ?? '',
        instead: insteadOf(text, notices[0]),
      };
    });
  });
  readonly all = computed(() => {
    const answer = this.answers.answer();
    const { effect, flip, wording } = this.store.definition();
    // Of marks it is the rows marked that count; of what is flipped to, the rows on show.
    const marking = effect === 'mark in place' && !flip && answer?.asked;
    const said = this.answers.problem();
    const read = this.read();
    const last = read.length - 1;
    return read.map((line, i) => {
      const tally = answer?.strands[i];
      const alone = marking ? answer.matched : answer?.shown;
      return {
        ...line,
        rows: read.length === 1 ? alone : tally?.asked ? tally.leaves : undefined,
        tally: i > 0 && tally?.asked ? tallyWords(tally) : '',
        problem: line.problem || (said?.strand === i ? said.message : ''),
        prompt: i > 0 ? '' : (wording?.prompt ?? 'Type a bit of what you know'),
        examples: i > 0 ? [] : (wording?.examples ?? []),
        movable: i > 0 && last > 1 ? { up: i > 1, down: i < last } : undefined,
        waits: this.waits(),
        full: read.length >= MOST_STRANDS,
      };
    });
  });
  /** The notice about the texts: the first that cannot be read, else the first that was read in another way. */
  readonly notice = computed(() => {
    const lines = this.all();
    const problem = lines.find((line) => line.problem !== '');
    if (problem) return { text: problem.problem, problem: true, instead: undefined };
    const noticed = lines.findIndex((line) => line.notice !== '');
    if (noticed < 0) return { text: '', problem: false, instead: undefined };
    const { notice, instead } = lines[noticed];
    return { text: notice, problem: false, instead: instead && { ...instead, strand: noticed } };
  });
}
