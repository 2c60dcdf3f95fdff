import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { COMMAND, serve, type Serving } from './serving.js';

describe('usual-needle find on a server', () => {
  const folder = mkdtempSync(join(tmpdir(), 'usual-needle-find-'));
  let server: Serving;

  beforeAll(async () => {
    server = await serve(join(folder, 'data'));
    const headers = { 'content-type': 'text/csv' };
    const body = 'No,Thing\n1,umbrella\n2,hat\n3,"umbrella, red"\n';
    await fetch(`${server.address}/api/tables?name=Found`, { method: 'POST', headers, body });
    const box = {
      format: 'usual-needle box',
      version: 1,
      name: 'Look-up',
      threaded: ['Thing'],
      columns: [{ name: 'Thing' }],
    };
    const json = { 'content-type': 'application/json' };
    await fetch(`${server.address}/api/tables/1/boxes`, {
      method: 'POST',
      headers: json,
      body: JSON.stringify({ box }),
    });
  }, 60_000);
  afterAll(async () => {
    await server.end();
    rmSync(folder, { recursive: true });
  });
  const run = (...args: string[]): [number | null, string, string] => {
    const asked = ['find', ...args, '--server', server.address];
    const { status, stdout, stderr } = spawnSync(process.execPath, [COMMAND, ...asked], { encoding: 'utf8' });
    return [status, stdout, stderr.trim()];
  };

  it('gives the rows of a box, in each form, and their number', () => {
    expect(run('1', 'umbr')).toEqual([0, 'Thing\r\numbrella\r\n"umbrella, red"\r\n', '']);
    expect(run('1', 'umbr', '--out', 'count')).toEqual([0, '2\n', '']);
    expect(run('1', 'zzz')).toEqual([1, 'Thing\r\n', '']);
    expect(run('1', 'hat', '--out', 'xlsx', '--to', join(folder, 'hats.xlsx'))).toEqual([0, '', '']);
    expect(readFileSync(join(folder, 'hats.xlsx')).subarray(0, 2).toString()).toBe('PK');
    expect(readdirSync(folder).some((name) => name.endsWith('.half'))).toBe(false);
  }, 60_000);

  it('gives a page to print, and one that searches by itself, with what was typed', () => {
    expect(run('1', 'umbr', '--out', 'html', '--to', join(folder, 'print.html'))).toEqual([0, '', '']);
    const printed = readFileSync(join(folder, 'print.html'), 'utf8');
    expect(printed).toContain('<mark');
    expect(printed).not.toContain('hat');
    expect(run('1', 'umbr', '--out', 'page', '--to', join(folder, 'page.html'))).toEqual([0, '', '']);
    const page = readFileSync(join(folder, 'page.html'), 'utf8');
    expect(page).toMatch(/"text":"umbr"/);
    expect(page).toContain('Content-Security-Policy');
  }, 60_000);

  it('says what it cannot do', () => {
    expect(run('99')[0]).toBe(2);
    expect(run('99')[2]).toContain('no such box');
    expect(run('1', '--sort', 'Thing')[2]).toContain('--sort is for a file');
  }, 60_000);
});
