import { ownAddress } from './sign-in';

describe('the address that one goes on to after signing in', () => {
  const cases: [to: string | undefined, leads: string][] = [
    ['/table/1?q=hat', '/table/1?q=hat'],
    ['/', '/'],
    [undefined, '/'],
    ['', '/'],
    ['https://other.example', '/'],
    ['//other.example', '/'],
    ['/\\other.example', '/'],
    ['javascript:alert(1)', '/'],
    ['/sign-in?to=/x', '/'],
  ];
  for (const [to, leads] of cases) it(`${to} leads to ${leads}`, () => expect(ownAddress(to)).toBe(leads));
});
