import { Injectable } from '@angular/core';
import { Observable } from 'rxjs';

/** How far an upload is. */
export interface Progress {
  readonly sent: number;
  readonly size: number;
  /** Seconds since it began. */
  readonly seconds: number;
}

type Uploading<T> = { readonly progress: Progress } | { readonly done: T };

/** Sends a file as the browser reads it from the disk: it is never held whole. Unsubscribing breaks it off. */
@Injectable({ providedIn: 'root' })
export class Upload {
  send<T>(method: string, address: string, file: File): Observable<Uploading<T>> {
    return new Observable((subscriber) => {
      const request = new XMLHttpRequest();
      const began = performance.now();
      const progress = (sent: number): void =>
        subscriber.next({ progress: { sent, size: file.size, seconds: (performance.now() - began) / 1000 } });
      request.open(method, address);
      // What it is, is found out from its bytes and its name by who reads it; the choices say the rest.
      request.setRequestHeader('Content-Type', 'application/octet-stream');
      request.responseType = 'json';
      request.upload.onprogress = ({ loaded }) => progress(loaded);
      request.onload = () => {
        const body = request.response as T;
        if (request.status >= 200 && request.status < 300) {
          subscriber.next({ done: body });
          subscriber.complete();
        } else subscriber.error({ status: request.status, error: body });
      };
      request.onerror = () => subscriber.error({ status: 0 });
      progress(0);
      request.send(file);
      return () => request.abort();
    });
  }
}
