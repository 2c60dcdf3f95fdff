import { ChangeDetectionStrategy, Component, inject, signal, viewChild } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Popover } from 'primeng/popover';
import { Preferences } from '../services/preferences';
import { Remarks } from '../services/remarks';
import { Keeping } from './keeping';
import { SheetStore } from './sheet-store';
import { WordingPanel } from './wording-panel';

/** What is done with the box as a whole: undoing, keeping, wording, copying, deleting, its file. */
@Component({
  selector: 'un-box-menu',
  imports: [Popover, RouterLink, WordingPanel],
  template: `
    @if (store.reading()) {
      <a [routerLink]="['/box', keeping.stored()?.id]" queryParamsHandling="preserve">Back to building</a>
    } @else {
      @if (store.unsaved()) {
        <span class="unsaved">unsaved changes</span>
      }
      <button type="button" class="plain" [disabled]="store.past().length === 0" (click)="store.undo()">Undo</button>
      <button type="button" class="plain" [disabled]="store.future().length === 0" (click)="store.redo()">Redo</button>
      <button type="button" aria-haspopup="dialog" (click)="word($event)">Word it</button>
      <button
        type="button"
        class="save"
        [disabled]="keeping.busy() || (keeping.stored() !== undefined && !store.unsaved())"
        (click)="save($event)"
      >
        Save
      </button>
    }
    <button type="button" aria-haspopup="dialog" (click)="more.toggle($event)">More</button>

    <p-popover #wording [focusOnShow]="true" ariaLabel="The words of this box">
      <un-wording-panel (done)="worded($event)" />
    </p-popover>
    <p-popover #more [focusOnShow]="true" ariaLabel="More to do with this box">
      <div class="list">
        @if (!store.reading()) {
          @if (naming()) {
            <form (submit)="$event.preventDefault(); saveAs(copy.value); more.hide()">
              <input #copy aria-label="Name of the new box" [value]="(store.box().name ?? 'New box') + ', again'" />
              <button type="submit">Keep</button>
            </form>
          } @else {
            <button type="button" (click)="naming.set(true)">Save as a new box …</button>
          }
          @if (store.unsaved() && keeping.stored()) {
            <button type="button" (click)="keeping.discard(); more.hide()">Back to the box as saved</button>
          }
          @if (keeping.stored(); as stored) {
            <a [routerLink]="['/read', stored.id]" queryParamsHandling="preserve">Reader’s view</a>
          }
          <button type="button" (click)="writeFile(); more.hide()">Box file out</button>
          <label
            >Box file in
            <input #file type="file" accept=".json,application/json" (change)="readFile(file); more.hide()"
          /></label>
          @if (keeping.stored()) {
            <button type="button" (click)="keeping.delete(); more.hide()">Delete this box</button>
          }
          <hr />
        }
        <button
          type="button"
          [attr.aria-pressed]="preferences.density() === 'compact'"
          (click)="preferences.setDensity(preferences.density() === 'compact' ? 'comfortable' : 'compact')"
        >
          {{ preferences.density() === 'compact' ? 'Comfortable rows' : 'Compact rows' }}
        </button>
      </div>
    </p-popover>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 6px;
      margin-left: auto;
    }
    :host > a {
      white-space: nowrap;
    }
    .unsaved {
      margin-right: 4px;
      color: var(--soft-ink);
      font-size: 12.5px;
      font-style: italic;
    }
    :host > button:not(.plain) {
      padding: 4px 12px;
      border: 1px solid var(--hairline);
      border-radius: 6px;
      background: var(--leaf);
      white-space: nowrap;
    }
    :host > .save:enabled {
      background: var(--ink);
      border-color: var(--ink);
      color: var(--leaf);
    }
    button:disabled {
      opacity: 0.45;
      cursor: default;
    }
    .list {
      display: grid;
      min-width: 200px;
    }
    .list > button,
    .list > a,
    .list > label {
      padding: 6px 8px;
      border: 0;
      border-radius: 6px;
      background: none;
      text-align: left;
      text-decoration: none;
      cursor: pointer;
    }
    .list > :is(button, a, label):hover {
      background: var(--header);
    }
    .list label:focus-within {
      outline: 2px solid var(--thread);
    }
    .list input[type='file'] {
      position: absolute;
      width: 1px;
      height: 1px;
      opacity: 0;
    }
    .list form {
      display: flex;
      gap: 6px;
      padding: 4px 8px;
    }
    .list form input {
      padding: 4px 8px;
      background: var(--paper);
      border: 1px solid var(--hairline);
      border-radius: 6px;
    }
    hr {
      width: 100%;
      border: 0;
      border-top: 1px solid var(--hairline);
    }
    @media (max-width: 800px) {
      .unsaved,
      :host > .plain {
        display: none;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BoxMenu {
  protected readonly store = inject(SheetStore);
  protected readonly keeping = inject(Keeping);
  protected readonly preferences = inject(Preferences);
  private readonly remarks = inject(Remarks);
  private readonly wording = viewChild.required<Popover>('wording');

  protected readonly naming = signal(false);

  protected word(event: Event): void {
    this.wording().toggle(event);
  }

  /** A box without a name is worded first. */
  protected save(event: Event): void {
    if (!this.keeping.save()) this.wording().show(event);
  }

  protected worded(save: boolean): void {
    if (!save) this.wording().hide();
    else if (this.keeping.save()) this.wording().hide();
    else this.remarks.say('A box needs a name before it can be kept.');
  }

  protected saveAs(name: string): void {
    this.naming.set(false);
    if (name.trim() !== '') this.keeping.saveAs(name.trim());
  }

  protected writeFile(): void {
    const { name, text } = this.keeping.file();
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
    link.download = name;
    link.click();
    URL.revokeObjectURL(link.href);
  }

  protected readFile(input: HTMLInputElement): void {
    const [file] = input.files ?? [];
    input.value = '';
    if (!file) return;
    void file.text().then((text) => {
      const problem = this.keeping.take(text);
      if (problem) this.remarks.say(problem);
    });
  }
}
