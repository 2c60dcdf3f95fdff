import { Injectable, signal } from '@angular/core';

const DENSITY = 'usual-needle density';

type Density = 'comfortable' | 'compact';

/** The preferences of a person, kept in their browser and not in any box. */
@Injectable({ providedIn: 'root' })
export class Preferences {
  readonly density = signal<Density>(localStorage.getItem(DENSITY) === 'compact' ? 'compact' : 'comfortable');

  setDensity(density: Density): void {
    this.density.set(density);
    localStorage.setItem(DENSITY, density);
  }
}
