/** The answers that the server gives as JSON, by name: so they stand in its description for other programs. */
import type { Lenders, PairingCounts } from './borrow.js';
import type { Change, ChangeList } from './change.js';
import type { EditDone, RowHistory } from './edit.js';
import type { Invitation, MadeLink, Me, People } from './people.js';
import type { Problem } from './problem.js';
import type { Explanation, NextMatch, Offers, OvertakenAnswer, SearchAnswer } from './search.js';
import type { BoxShare, OpenedBox, Suggestions } from './share.js';
import type { SourceList, SourceRuns, SourceTold } from './source.js';
import type { Dependents, Health, Live, Refresh, RowList, ShelfContent, StoredBox, TableSummary } from './table.js';
import type { TakeOutProgress } from './take-out.js';
import type { MadeToken, TokenList } from './tokens.js';

export interface Answers {
  readonly BoxShare: BoxShare;
  readonly Change: Change;
  readonly ChangeList: ChangeList;
  readonly Dependents: Dependents;
  readonly EditDone: EditDone;
  readonly Explanation: Explanation;
  readonly Health: Health;
  readonly Invitation: Invitation;
  readonly Lenders: Lenders;
  readonly Live: Live;
  readonly MadeLink: MadeLink;
  readonly MadeToken: MadeToken;
  readonly Me: Me;
  readonly NextMatch: NextMatch;
  readonly Offers: Offers;
  readonly OpenedBox: OpenedBox;
  readonly OvertakenAnswer: OvertakenAnswer;
  readonly PairingCounts: PairingCounts;
  readonly People: People;
  readonly Problem: Problem;
  readonly Refresh: Refresh;
  readonly RowHistory: RowHistory;
  readonly RowList: RowList;
  readonly SearchAnswer: SearchAnswer;
  readonly ShelfContent: ShelfContent;
  readonly SourceList: SourceList;
  readonly SourceRuns: SourceRuns;
  readonly SourceTold: SourceTold;
  readonly StoredBox: StoredBox;
  readonly Suggestions: Suggestions;
  readonly TableSummary: TableSummary;
  readonly TakeOutProgress: TakeOutProgress;
  readonly TokenList: TokenList;
}
