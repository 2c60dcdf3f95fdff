import { Subject } from 'rxjs';
import { onceLate } from './late';

describe('what is said only once it is late', () => {
  let is: Subject<boolean>;
  let said: boolean[];
  beforeEach(() => {
    jasmine.clock().install();
    is = new Subject();
    said = [];
    onceLate(is).subscribe((late) => said.push(late));
  });
  afterEach(() => jasmine.clock().uninstall());

  it('is not said of what is over soon', () => {
    is.next(true);
    jasmine.clock().tick(140);
    is.next(false);
    jasmine.clock().tick(1_000);
    expect(said).toEqual([false]);
  });

  it('is said of what lasts, however often it is said to be so, and taken back at once', () => {
    is.next(true);
    jasmine.clock().tick(100);
    is.next(true);
    jasmine.clock().tick(60);
    expect(said).toEqual([true]);
    is.next(false);
    expect(said).toEqual([true, false]);
  });
});
