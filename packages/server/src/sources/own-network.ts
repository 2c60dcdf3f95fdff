/**
 * The addresses that a source may be fetched from: those of the open network, and of this server's own only what whoever runs it has
 * allowed. A name is looked up once, and what is connected to is what was looked at: an answer that changes in between changes nothing.
 */
import { lookup as lookUp, type LookupAddress } from 'node:dns';
import { isIP, type LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';

/** The address is one of the server's own network, and nobody has allowed it. */
export class NotFetched extends Error {
  constructor(host: string) {
    super(
      `${host} is an address of the server’s own network. Whoever runs the server can allow it by --allow-source ${host}.`,
    );
  }
}

/** Addresses for trials of networks (RFC 2544), which the package takes for anybody's. */
const BENCHMARKS = ipaddr.IPv4.parseCIDR('198.18.0.0/15');

/** Tells whether an IP address is one that anybody on the open network has; those in other clothes are looked at without. */
export function isOpen(address: string): boolean {
  let ip = ipaddr.parse(address);
  if (ip.kind() === 'ipv6') {
    const six = ip as ipaddr.IPv6;
    if (six.isIPv4MappedAddress()) ip = six.toIPv4Address();
    else if (six.range() === 'rfc6052') ip = ipaddr.IPv4.parse(fourIn(six, 12));
    else if (six.range() === '6to4') ip = ipaddr.IPv4.parse(fourIn(six, 2));
  }
  return ip.range() === 'unicast' && !(ip.kind() === 'ipv4' && (ip as ipaddr.IPv4).match(BENCHMARKS));
}

/** The IPv4 address that stands in an IPv6 address from a byte on. */
function fourIn(six: ipaddr.IPv6, from: number): string {
  return six
    .toByteArray()
    .slice(from, from + 4)
    .join('.');
}

/** A host as it is compared: without the brackets of an address, in small letters, without a dot at its end. */
export function plainHost(host: string): string {
  return host
    .replace(/^\[|\]$/g, '')
    .toLowerCase()
    .replace(/\.$/, '');
}

export class OwnNetwork {
  private readonly allowed: ReadonlySet<string>;

  /** @param allowed names and addresses of the own network that may be fetched from */
  constructor(
    allowed: readonly string[],
    private readonly resolve: typeof lookUp = lookUp,
  ) {
    this.allowed = new Set(allowed.map(plainHost));
  }

  /** Looks at a host that is an address already: for it nothing is looked up. @throws NotFetched */
  check(host: string): void {
    const plain = plainHost(host);
    if (isIP(plain) !== 0 && !this.isAllowed(plain, plain)) throw new NotFetched(plain);
  }

  private isAllowed(host: string, address: string): boolean {
    return this.allowed.has(host) || this.allowed.has(plainHost(address)) || isOpen(address);
  }

  /** Looks a name up for whoever connects: it is given only addresses that may be connected to. */
  readonly lookup: LookupFunction = (name, options, done) => {
    const host = plainHost(name);
    this.resolve(host, { ...options, all: true }, (error, found) => {
      if (error) return done(error, '');
      const addresses = found as unknown as LookupAddress[];
      // One that is not allowed among others that are: nobody needs that who means well.
      if (addresses.length === 0 || !addresses.every(({ address }) => this.isAllowed(host, address)))
        return done(new NotFetched(host), '');
      if (options.all) return done(null, addresses);
      return done(null, addresses[0].address, addresses[0].family);
    });
  };
}
