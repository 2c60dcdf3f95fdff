import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { Router } from '@angular/router';
import { ENCODINGS, type FileChoices, type TableSummary } from '@usual-needle/contract';
import { DELIMITERS, type Look } from '@usual-needle/formats';
import { Api } from '../services/api';
import { Refreshing } from './refreshing';
import { DELIMITER_NAMES, encodingWords } from './words';
import { Tick } from '../look/tick';
import { InputText } from 'primeng/inputtext';

export type FileSetting =
  | 'format'
  | 'encoding'
  | 'header'
  | 'sheet'
  | 'columns'
  | 'into'
  | 'name'
  | 'key'
  | 'gone'
  | 'clashes'
  | 'removed'
  | 'unclear';

interface SettingChoice {
  readonly words: string;
  readonly is: boolean;
  readonly does: () => void;
}

/** The panel that a phrase of the sentence opens: its choices, or a field to write in. */
@Component({
  selector: 'un-file-settings',
  imports: [InputText, Tick],
  template: `
    @switch (setting()) {
      @case ('name') {
        <form (submit)="$event.preventDefault(); named.emit(field.value)">
          <label
            >Name of the table <input #field autofocus pInputText class="entry" maxlength="200" [value]="name()"
          /></label>
          <button type="submit" class="plain">Name it so</button>
        </form>
      }
      @case ('columns') {
        <div class="list" role="group" aria-label="Columns brought in">
          @for (column of look().columns; track $index) {
            <label>
              <un-tick [checked]="column.taken" (changed)="columnTaken.emit({ column: $index, take: $event })" />
              {{ column.column.name }}
            </label>
          }
        </div>
      }
      @default {
        <div class="choices" role="radiogroup" aria-label="Choices">
          @for (choice of offered(); track choice.words) {
            <button type="button" role="radio" [attr.aria-checked]="choice.is" (click)="choice.does(); done.emit()">
              {{ choice.words }}
            </button>
          }
        </div>
        @if (setting() === 'format' && look().found.format === 'csv') {
          <form (submit)="$event.preventDefault(); other(sign.value)">
            <label>another sign <input #sign pInputText class="entry sign" maxlength="1" [value]="unusual()" /></label>
            <button type="submit" class="plain">Read it so</button>
          </form>
        }
      }
    }
  `,
  styles: `
    form,
    .list {
      padding: 6px 10px;
    }
    .list {
      display: grid;
      gap: 4px;
      max-height: 320px;
      overflow: auto;
    }
    label {
      display: flex;
      gap: 8px;
      align-items: center;
    }
    .sign {
      width: 44px;
      text-align: center;
      font-family: var(--mono);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FileSettings {
  readonly setting = input.required<FileSetting>();
  readonly look = input.required<Look>();
  readonly choices = input.required<FileChoices>();
  readonly name = input('');
  readonly table = input<TableSummary>();
  readonly chosen = output<Partial<FileChoices>>();
  readonly columnTaken = output<{ readonly column: number; readonly take: boolean }>();
  readonly named = output<string>();
  readonly done = output<void>();

  private readonly refreshing = inject(Refreshing);
  private readonly router = inject(Router);
  private readonly tables = signal<readonly TableSummary[]>([]);

  protected readonly unusual = computed(() => {
    const { delimiter = '' } = this.look().found;
    return (DELIMITERS as readonly string[]).includes(delimiter) ? '' : delimiter;
  });

  protected readonly offered = computed<readonly SettingChoice[]>(() => {
    const { found } = this.look();
    const choice = (words: string, is: boolean, change: Partial<FileChoices>): SettingChoice => ({
      words,
      is,
      does: () => this.chosen.emit(change),
    });
    switch (this.setting()) {
      case 'format':
        if (found.format === 'xlsx' || found.format === 'ods') return [choice('a workbook', true, {})];
        return [
          ...DELIMITERS.map((sign) =>
            choice(`${DELIMITER_NAMES[sign]}-separated text`, found.format === 'csv' && found.delimiter === sign, {
              format: 'csv',
              delimiter: sign,
            }),
          ),
          choice('a JSON array', found.format === 'json', { format: 'json', delimiter: undefined }),
          choice('JSON, a row a line', found.format === 'ndjson', { format: 'ndjson', delimiter: undefined }),
        ];
      case 'encoding':
        return ENCODINGS.map((encoding) => choice(encodingWords(encoding), found.encoding === encoding, { encoding }));
      case 'header':
        return [
          choice('its first row', found.header, { header: true }),
          choice('no row: columns are numbered', !found.header, { header: false }),
        ];
      case 'sheet':
        return (found.sheets ?? []).map((sheet) => choice(sheet, sheet === found.sheet, { sheet }));
      case 'into':
        return [
          choice('a new table', true, {}),
          ...this.tables().map(({ id, name }) => ({
            words: `newer rows of ${name}`,
            is: false,
            does: () => void this.router.navigate(['/refresh', id]),
          })),
        ];
      case 'key':
        return this.keys();
      case 'gone':
        return (['keep', 'remove'] as const).map((fate) => ({
          words: fate === 'keep' ? 'keeps rows that are gone' : 'removes rows that are gone',
          is: this.refreshing.gone() === fate,
          does: () => this.refreshing.gone.set(fate),
        }));
      case 'clashes':
        return (['ours', 'theirs'] as const).map((whose) => ({
          words: whose === 'ours' ? 'what was written here stands' : 'what the file says is taken',
          is: this.refreshing.clashes() === whose && this.refreshing.except().size === 0,
          does: () => this.refreshing.chooseClashes(whose),
        }));
      case 'removed':
        return (['stay', 'back'] as const).map((fate) => ({
          words: fate === 'stay' ? 'leaves out what was removed here' : 'brings it back',
          is: this.refreshing.removed() === fate,
          does: () => this.refreshing.removed.set(fate),
        }));
      case 'unclear':
        return (['first', 'leave'] as const).map((way) => ({
          words: way === 'first' ? 'takes the first of each' : 'leaves them as they are here',
          is: this.refreshing.unclear() === way,
          does: () => this.refreshing.unclear.set(way),
        }));
      default:
        return [];
    }
  });

  constructor() {
    inject(Api)
      .shelf()
      .subscribe({ next: ({ tables }) => this.tables.set(tables), error: () => undefined });
  }

  private keys(): SettingChoice[] {
    const key = this.refreshing.key();
    const by = (words: string, names: readonly string[]): SettingChoice => ({
      words,
      is: names.join('\n') === key.join('\n'),
      does: () => this.refreshing.chooseKey(names),
    });
    const names = this.refreshing.common(this.look(), this.table());
    return [...names.map((name) => by(`by ${name}`, [name])), by('by their places', [])];
  }

  protected other(sign: string): void {
    if (sign !== '' && sign !== '"') this.chosen.emit({ format: 'csv', delimiter: sign });
  }
}
