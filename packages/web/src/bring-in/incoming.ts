import { Injectable, signal } from '@angular/core';

/** The file that was dropped, chosen or pasted: it goes from the shelf to the preview, which lasts while the page does. */
@Injectable({ providedIn: 'root' })
export class Incoming {
  readonly file = signal<File | undefined>(undefined);

  /** Takes the first file of several. @returns false if there is none */
  take(files: FileList | readonly File[] | null | undefined): boolean {
    const file = files?.[0];
    if (file) this.file.set(file);
    return file !== undefined;
  }

  /** Cells as a spreadsheet program or a page copies them. @returns false if there is nothing */
  takeText(text: string): boolean {
    if (text.trim() === '') return false;
    this.file.set(new File([text], 'pasted cells'));
    return true;
  }
}
