import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal, viewChild } from '@angular/core';
import { DELIMITERS, type TableChange, type TableSummary } from '@usual-needle/contract';
import { DependentsList } from '../common/dependents';
import { errorWords } from '../common/error-words';
import { Hint } from '../look/hint';
import { Pop } from '../look/pop';
import { Api } from '../services/api';
import { Remarks } from '../services/remarks';
import { Tick } from '../look/tick';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { RadioButton } from 'primeng/radiobutton';
import { InputText } from 'primeng/inputtext';

/** The menu of a table as a whole: renaming, describing, a copy of it, deleting. */
@Component({
  selector: 'un-table-menu',
  imports: [DependentsList, FormsModule, Hint, InputText, Pop, RadioButton, RouterLink, Tick],
  template: `
    <button
      type="button"
      class="like-link"
      aria-haspopup="dialog"
      unHint="Renames, describes, copies or deletes the table"
      [attr.aria-label]="'More of ' + table().name"
      (click)="open($event)"
    >
      More
    </button>
    <un-pop [label]="'More to do with ' + table().name" otherwise="#everywhere">
      @switch (doing()) {
        @case ('rename') {
          <form (submit)="$event.preventDefault(); change({ name: field.value.trim() })">
            <label
              >Name <input #field autofocus pInputText class="entry" maxlength="200" [value]="table().name"
            /></label>
            <button type="submit" class="plain">Rename it</button>
          </form>
        }
        @case ('describe') {
          <form class="tall" (submit)="$event.preventDefault(); change({ description: words.value.trim() })">
            <label for="description">What it is, in a sentence or two</label>
            <textarea
              #words
              id="description"
              autofocus
              rows="4"
              maxlength="2000"
              [value]="table().description"
            ></textarea>
            <button type="submit" class="plain">Describe it so</button>
          </form>
        }
        @case ('copy') {
          <div class="tall form">
            <fieldset>
              <legend>Its fields are parted by a</legend>
              @for (sign of delimiters; track sign) {
                <label
                  ><p-radiobutton
                    name="delimiter"
                    [value]="sign"
                    [ngModel]="delimiter()"
                    (ngModelChange)="delimiter.set(sign)"
                  />
                  {{ sign }}</label
                >
              }
            </fieldset>
            <label><un-tick [checked]="mark()" (changed)="mark.set($event)" /> It begins with a byte-order mark </label>
            <small
              >Many spreadsheet programs need the mark to read accents; those of countries with a decimal comma also
              want the semicolon.</small
            >
            <a class="plain" autofocus [href]="copyAddress()" download (click)="pop().hide()">Take the copy</a>
          </div>
        }
        @case ('delete') {
          <un-dependents [table]="table().id" [does]="'Delete ' + table().name" (goes)="pop().hide(); deleted.emit()" />
        }
        @default {
          <div class="list">
            <button type="button" class="item" (click)="ask('rename')">Rename …</button>
            <button type="button" class="item" (click)="ask('describe')">Describe …</button>
            <a class="item" [routerLink]="['/source', table().id]" (click)="pop().hide()">Let it refresh itself …</a>
            <button type="button" class="item" (click)="ask('copy')">Take a copy, as CSV …</button>
            <button type="button" class="item" (click)="ask('delete')">Delete …</button>
          </div>
        }
      }
    </un-pop>
  `,
  styles: `
    fieldset {
      display: flex;
      gap: 4px 14px;
      margin: 0;
      padding: 0;
      border: 0;
    }
    legend {
      padding: 0 0 4px;
    }
    small {
      max-width: 300px;
      color: var(--soft-ink);
    }
    .form,
    form {
      display: flex;
      gap: 8px;
      align-items: center;
      padding: 6px 8px;
    }
    .tall {
      display: grid;
      justify-items: start;
    }
    textarea {
      width: 320px;
      padding: 6px 8px;
      font: inherit;
      color: inherit;
      background: var(--paper);
      border: 1px solid var(--hairline);
      border-radius: 6px;
    }
    .list {
      display: grid;
    }
    .item {
      padding: 6px 10px;
      border: 0;
      background: none;
      text-align: left;
      text-decoration: none;
    }
    .item:hover {
      background: var(--header);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TableMenu {
  readonly table = input.required<TableSummary>();
  readonly deleted = output<void>();
  readonly changed = output<void>();
  private readonly api = inject(Api);
  private readonly remarks = inject(Remarks);
  protected readonly pop = viewChild.required(Pop);
  protected readonly doing = signal<'rename' | 'describe' | 'copy' | 'delete' | undefined>(undefined);
  protected readonly delimiters = DELIMITERS;
  protected readonly delimiter = signal<(typeof DELIMITERS)[number]>('comma');
  protected readonly mark = signal(true);
  protected readonly copyAddress = computed(
    () => `/api/tables/${this.table().id}/copy?delimiter=${this.delimiter()}&mark=${this.mark()}`,
  );

  protected open(event: Event): void {
    this.doing.set(undefined);
    this.pop().toggle(event);
  }

  protected ask(what: 'rename' | 'describe' | 'copy' | 'delete'): void {
    this.doing.set(what);
    this.pop().focusIn();
  }

  protected change(change: TableChange): void {
    if (change.name === '') return this.remarks.say('A table needs a name.');
    this.api.describeTable(this.table(), change).subscribe({
      next: () => {
        this.pop().hide();
        this.changed.emit();
      },
      // What was typed stays where it is.
      error: (error: unknown) => this.remarks.say(errorWords(error)),
    });
  }
}
