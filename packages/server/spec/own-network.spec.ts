import type { LookupAddress, LookupOptions } from 'node:dns';
import { isOpen, NotFetched, OwnNetwork } from '../dist/sources/own-network.js';

describe('addresses that sources may be fetched from', () => {
  const closed = [
    '127.0.0.1',
    '10.1.2.3',
    '172.16.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '255.255.255.255',
    '224.0.0.1',
    '192.0.2.1',
    '198.18.0.1',
    '::1',
    '::',
    'fe80::1',
    'fc00::1',
    'ff02::1',
    '::ffff:127.0.0.1',
    '::ffff:10.0.0.1',
    '64:ff9b::7f00:1',
    '2002:7f00:1::',
    '2001:db8::1',
  ];
  for (const address of closed)
    it(`${address} is of the own network, or of none`, () => expect(isOpen(address)).toBe(false));
  for (const address of ['93.184.215.14', '2606:2800:21f:cb07::1', '::ffff:93.184.215.14', '64:ff9b::5db8:d70e'])
    it(`${address} is anybody’s`, () => expect(isOpen(address)).toBe(true));

  /** A network whose names have the addresses that are given, one answer after the other. */
  const looked = (allowed: string[], ...answers: string[][]): ((name: string, all?: boolean) => Promise<unknown>) => {
    const resolve = (_: string, __: LookupOptions, done: (error: null, found: LookupAddress[]) => void): void =>
      done(
        null,
        (answers.shift() ?? []).map((address) => ({ address, family: address.includes(':') ? 6 : 4 })),
      );
    const network = new OwnNetwork(allowed, resolve as never);
    return (name, all = false) =>
      new Promise((done, fail) =>
        network.lookup(name, { all }, (error, address) => (error ? fail(error) : done(address))),
      );
  };

  it('are looked at by what a name is looked up as, each time', async () => {
    await expectAsync(looked([], ['10.0.0.7'])('depot.example')).toBeRejectedWithError(NotFetched, /own network/);
    await expectAsync(looked([], ['93.184.215.14'])('depot.example')).toBeResolvedTo('93.184.215.14');
    await expectAsync(looked([], ['93.184.215.14', '10.0.0.7'])('depot.example')).toBeRejectedWithError(NotFetched);
    await expectAsync(looked([], [])('depot.example')).toBeRejected();
    const changing = looked([], ['93.184.215.14'], ['127.0.0.1']);
    await expectAsync(changing('depot.example')).toBeResolved();
    await expectAsync(changing('depot.example')).toBeRejectedWithError(NotFetched);
  });

  it('are allowed by name, or by address', async () => {
    await expectAsync(looked(['Depot.Example'], ['10.0.0.7'])('depot.example.')).toBeResolvedTo('10.0.0.7');
    await expectAsync(looked(['10.0.0.7'], ['10.0.0.7'])('depot.example')).toBeResolved();
    await expectAsync(looked(['10.0.0.8'], ['10.0.0.7'])('depot.example')).toBeRejected();
    await expectAsync(looked(['other.example'], ['10.0.0.7'])('depot.example')).toBeRejected();
  });

  it('are looked at where they stand in the address itself, however they are written', () => {
    const network = new OwnNetwork(['10.0.0.7']);
    for (const written of [
      'http://127.0.0.1/',
      'http://2130706433/',
      'http://0x7f.1/',
      'http://[::1]/',
      'http://[::ffff:7f00:1]/',
      'http://127.1/',
    ])
      expect(() => network.check(new URL(written).hostname))
        .withContext(written)
        .toThrowError(NotFetched);
    expect(() => network.check(new URL('http://10.0.0.7/').hostname)).not.toThrow();
    expect(() => network.check('depot.example')).not.toThrow();
  });
});
