import { Injectable } from '@angular/core';
import { DefaultUrlSerializer, type UrlTree } from '@angular/router';

/** Addresses as people type and cut them: a `%` that stands for itself is one, and does not lead to nowhere. */
@Injectable()
export class LenientAddresses extends DefaultUrlSerializer {
  override parse(url: string): UrlTree {
    try {
      return super.parse(url);
    } catch (error) {
      if (!(error instanceof URIError)) throw error;
      return super.parse(url.replace(/(?:%[0-9a-fA-F]{2})+|%/g, readable));
    }
  }
}

/** Escapes that can be read, as they are; the signs of others, as signs. */
function readable(escapes: string): string {
  try {
    decodeURIComponent(escapes);
    return escapes;
  } catch {
    return escapes.replaceAll('%', '%25');
  }
}
