import { ChangeDetectionStrategy, Component, inject, output } from '@angular/core';
import type { Box } from '@usual-needle/contract';
import { BoxSaving } from '../state/box-saving';
import { SheetStore } from '../state/sheet-store';
import { InputText } from 'primeng/inputtext';

/** The words of a box: its name, prompt, help line, examples, and what it says when nothing is found. */
@Component({
  selector: 'un-wording-panel',
  imports: [InputText],
  template: `
    <form (submit)="$event.preventDefault(); done.emit(true)">
      <label
        >Name
        <input
          pInputText
          #name
          autofocus
          [value]="store.box().name ?? ''"
          maxlength="200"
          (change)="set({ name: name.value.trim() || undefined })"
      /></label>
      <label
        >Prompt, in the empty box
        <input
          pInputText
          #prompt
          [value]="wording().prompt ?? ''"
          maxlength="200"
          (change)="word({ prompt: prompt.value })"
      /></label>
      <label
        >Help line
        <input pInputText #help [value]="wording().help ?? ''" maxlength="500" (change)="word({ help: help.value })"
      /></label>
      <label
        >Nothing found says
        <input
          pInputText
          #nothing
          [value]="wording().nothingFound ?? ''"
          maxlength="500"
          placeholder="No row has that."
          (change)="word({ nothingFound: nothing.value })"
      /></label>
      <label
        >Example searches, one a line
        <textarea #examples rows="3" [value]="examplesText()" (change)="setExamples(examples.value)"></textarea>
      </label>
      <button type="submit" [disabled]="boxSaving.busy()">
        {{ boxSaving.stored() ? 'Save the box' : 'Save this box' }}
      </button>
      <button type="button" class="plain" (click)="done.emit(false)">Close</button>
    </form>
  `,
  styles: `
    form {
      width: min(420px, 84vw);
    }
    label {
      display: grid;
      gap: 3px;
      margin-bottom: 10px;
      color: var(--soft-ink);
      font-size: 13px;
    }
    [type='submit'] {
      padding: 5px 14px;
      background: var(--ink);
      border: 1px solid var(--ink);
      border-radius: 6px;
      color: var(--leaf);
    }
    input,
    textarea {
      padding: 5px 9px;
      font: inherit;
      font-size: 14px;
      color: var(--ink);
      background: var(--paper);
      border: 1px solid var(--hairline);
      border-radius: 6px;
      resize: vertical;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class WordingPanel {
  protected readonly store = inject(SheetStore);
  protected readonly boxSaving = inject(BoxSaving);
  /** True if the box is to be saved. */
  readonly done = output<boolean>();

  protected wording(): NonNullable<Box['wording']> {
    return this.store.box().wording ?? {};
  }

  protected examplesText(): string {
    return (this.wording().examples ?? []).join('\n');
  }

  protected set(change: Partial<Box>): void {
    this.store.update(change);
  }

  protected word(change: NonNullable<Box['wording']>): void {
    const words = { ...this.wording(), ...change };
    const said = Object.entries(words).filter(
      ([, value]) => value !== '' && !(Array.isArray(value) && value.length === 0),
    );
    this.store.update({ wording: Object.fromEntries(said) });
  }

  protected setExamples(text: string): void {
    const lines = text
      .split('\n')
      .map((line) => line.trim().slice(0, 200))
      .filter((line) => line !== '');
    this.word({ examples: lines.slice(0, 12) });
  }
}
