import { ChangeDetectionStrategy, Component, computed, inject, output, signal, viewChild } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Hint } from '../../look/hint';
import { Pop } from '../../look/pop';
import { Preferences } from '../../services/preferences';
import { Remarks } from '../../services/remarks';
import { Undoing } from '../keep/undoing';
import { BoxSaving } from '../state/box-saving';
import { SheetStore } from '../state/sheet-store';
import { WordingPanel } from './wording-panel';
import { InputText } from 'primeng/inputtext';

/** A file that is taken out is kept so long, in milliseconds. */
const KEPT_MS = 60_000;

/** The buttons for the box as a whole: undoing, keeping, wording, copying, deleting, its file. */
@Component({
  selector: 'un-box-menu',
  imports: [Hint, InputText, Pop, RouterLink, WordingPanel],
  template: `
    @if (store.readersView()) {
      @if (canBuild() && !store.readerMay()) {
        <a [routerLink]="['/box', boxSaving.stored()?.id]" queryParamsHandling="preserve">Back to building</a>
      }
    } @else {
      @if (store.unsaved() && store.buildable()) {
        <span class="unsaved">unsaved changes</span>
      }
      @for (way of ways(); track way.name) {
        <button
          type="button"
          class="plain"
          [disabled]="!way.of"
          [unHint]="way.of ? way.does + ': ' + way.of.words : ''"
          [textContent]="way.of?.of === 'rows' ? way.name + ' edit' : way.name"
          (click)="way.go()"
        ></button>
      }
      @if (store.buildable()) {
        @if (boxSaving.stored(); as stored) {
          <a
            class="share"
            [routerLink]="['/box', stored.id, 'share']"
            unHint="Who may open this box, what they see in it, and the link to it"
            >Share</a
          >
        }
        <button
          type="button"
          aria-haspopup="dialog"
          class="word"
          unHint="What the box is called, and what it says to its readers"
          (click)="word($event)"
        >
          Wording
        </button>
        <button
          type="button"
          class="save"
          unHint="Save this box on the shelf, as it is now"
          [disabled]="boxSaving.busy() || (boxSaving.stored() !== undefined && !store.unsaved())"
          (click)="save($event)"
        >
          Save
        </button>
      }
    }
    <button
      type="button"
      aria-haspopup="dialog"
      unHint="More to do with this box: save it as another one, take its file out, show fewer or more rows, delete it"
      (click)="more.toggle($event)"
    >
      More
    </button>

    <un-pop #wording label="The words of this box">
      <un-wording-panel (done)="worded($event)" />
    </un-pop>
    <un-pop #more label="More to do with this box" (closed)="naming.set(false)">
      <div class="list">
        @if (store.may('take out')) {
          <button type="button" class="item small" (click)="takes.emit(); more.hide()">Take rows out …</button>
        }
        @if (!store.readersView()) {
          <!-- Where there is no room for them beside it. -->
          @for (way of ways(); track way.name) {
            <button
              type="button"
              class="item small"
              [disabled]="!way.of"
              [textContent]="way.of ? way.name + ': ' + way.of.words : way.name"
              (click)="way.go(); more.hide()"
            ></button>
          }
        }
        @if (store.buildable()) {
          @if (naming()) {
            <form (submit)="$event.preventDefault(); saveAs(copy.value) && more.hide()">
              <input
                #copy
                pInputText
                autofocus
                maxlength="200"
                aria-label="Name of the new box"
                [value]="(store.box().name ?? 'New box') + ', again'"
              />
              <button type="submit">Keep</button>
            </form>
          } @else {
            <button type="button" class="item" (click)="naming.set(true); more.focusIn()">Save as a new box …</button>
          }
          @if (store.unsaved() && boxSaving.stored()) {
            <button type="button" class="item" (click)="boxSaving.discard(); more.hide()">
              Back to the box as saved
            </button>
          }
          @if (boxSaving.stored(); as stored) {
            <a [routerLink]="['/read', stored.id]" queryParamsHandling="preserve">Reader’s view</a>
          }
          <button type="button" class="item" (click)="writeFile(); more.hide()">Box file out</button>
          <label
            >Box file in
            <input #file type="file" accept=".json,application/json" (change)="readFile(file); more.hide()"
          /></label>
          @if (boxSaving.stored()) {
            <button type="button" class="item" (click)="boxSaving.delete(); more.hide()">Delete this box</button>
          }
          <hr />
        }
        <button
          type="button"
          class="item"
          [attr.aria-pressed]="preferences.density() === 'compact'"
          (click)="preferences.setDensity(preferences.density() === 'compact' ? 'comfortable' : 'compact')"
        >
          {{ preferences.density() === 'compact' ? 'Comfortable rows' : 'Compact rows' }}
        </button>
      </div>
    </un-pop>
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
    :host > .share {
      text-decoration: none;
    }
    :host > .share,
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
    .list > .small {
      display: none;
    }
    @media (max-width: 800px) {
      .unsaved,
      :host > .plain {
        display: none;
      }
      .list > .small {
        display: block;
        max-width: 320px;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BoxMenu {
  /** Rows are to be taken out: where there is no room for a button of its own. */
  readonly takes = output<void>();
  protected readonly store = inject(SheetStore);
  protected readonly boxSaving = inject(BoxSaving);
  private readonly undoing = inject(Undoing);
  protected readonly preferences = inject(Preferences);
  private readonly remarks = inject(Remarks);
  private readonly wording = viewChild.required<Pop>('wording');

  protected readonly ways = computed(() => [
    { name: 'Undo', does: 'Undoes', of: this.undoing.undoes(), go: () => this.undoing.undo() },
    { name: 'Redo', does: 'Does again', of: this.undoing.redoes(), go: () => this.undoing.redo() },
  ]);
  protected readonly naming = signal(false);
  /** Whether the person here is a builder: until people can sign in, everybody is. */
  protected readonly canBuild = signal(true);
  protected word(event: Event): void {
    this.wording().toggle(event);
  }

  /** A box without a name is worded first. */
  protected save(event: Event): void {
    if (!this.boxSaving.save()) this.wording().show(event.currentTarget as HTMLElement);
  }

  protected worded(save: boolean): void {
    if (!save) this.wording().hide();
    else if (this.boxSaving.save()) this.wording().hide();
    else this.remarks.say('A box needs a name before it can be kept.');
  }

  /** @returns false for a name that is none */
  protected saveAs(name: string): boolean {
    if (name.trim() === '') {
      this.remarks.say('A box needs a name before it can be kept.');
      return false;
    }
    this.boxSaving.saveAs(name.trim());
    return true;
  }

  protected writeFile(): void {
    const { name, text } = this.boxSaving.file();
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
    link.download = name;
    link.click();
    // Some browsers begin to read it only after this.
    setTimeout(() => URL.revokeObjectURL(link.href), KEPT_MS);
  }

  protected readFile(input: HTMLInputElement): void {
    const [file] = input.files ?? [];
    input.value = '';
    if (!file) return;
    void file.text().then((text) => {
      const problem = this.boxSaving.take(text);
      if (problem) this.remarks.say(problem);
    });
  }
}
