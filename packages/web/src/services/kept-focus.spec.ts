import { TestBed } from '@angular/core/testing';
import { KeptFocus } from './kept-focus';

const LATER = () => new Promise((done) => setTimeout(done, 80));

describe('the focus, where what had it goes', () => {
  let page: HTMLElement;
  const make = (html: string): void => void (page.innerHTML = html);
  const of = (id: string): HTMLElement => document.getElementById(id)!;

  beforeEach(() => {
    page = document.createElement('div');
    document.body.append(page);
    make('<h1 id="home" tabindex="-1" data-focus-home></h1><input id="first"><button id="second">2</button>');
    TestBed.inject(KeptFocus);
  });
  afterEach(() => page.remove());

  it('goes back to what had it before', async () => {
    of('first').focus();
    of('second').focus();
    of('second').remove();
    await LATER();
    expect(document.activeElement?.id).toBe('first');
  });

  it('goes back from what is disabled', async () => {
    of('first').focus();
    of('second').focus();
    of('second').setAttribute('disabled', '');
    await LATER();
    expect(document.activeElement?.id).toBe('first');
  });

  it('goes to the home of the screen where nothing of before is left', async () => {
    of('second').focus();
    make('<p>Another screen</p><h1 id="other" tabindex="-1" data-focus-home></h1>');
    await LATER();
    expect(document.activeElement?.id).toBe('other');
  });

  it('comes once a home is drawn', async () => {
    of('second').focus();
    make('<p>Fetching …</p>');
    await LATER();
    make('<h1 id="late" tabindex="-1" data-focus-home></h1>');
    await LATER();
    expect(document.activeElement?.id).toBe('late');
  });

  it('is left to who asks for it, and to who took it away', async () => {
    of('first').focus();
    of('second').focus();
    of('second').remove();
    of('home').focus();
    await LATER();
    expect(document.activeElement?.id).toBe('home');
    of('first').focus();
    page.dispatchEvent(new Event('pointerdown', { bubbles: true }));
    of('first').remove();
    await LATER();
    expect(document.activeElement).toBe(document.body);
  });
});
