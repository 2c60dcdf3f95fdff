import {
  ChangeDetectionStrategy,
  Component,
  type ComponentRef,
  createComponent,
  EnvironmentInjector,
  inject,
  Injectable,
} from '@angular/core';
import { Tooltip } from 'primeng/tooltip';

/** Milliseconds over a control, or on it by the keyboard, until it says what it does: who only passes is not told. */
const DELAY_MS = 500;

/** Stands unseen where the control is that is told of: a tooltip knows one place only. */
@Component({
  selector: 'un-hint-anchor',
  template: '',
  hostDirectives: [Tooltip],
  host: { 'aria-hidden': 'true' },
  styles: `
    :host {
      position: fixed;
      visibility: hidden;
      pointer-events: none;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class HintAnchor {
  readonly tooltip = inject(Tooltip);

  constructor() {
    this.tooltip.setOption({ tooltipPosition: 'bottom', showDelay: DELAY_MS });
  }
}

/** The tooltip that all hints share. It is of one control at a time, and made when the first one is come to. */
@Injectable({ providedIn: 'root' })
export class HintBubble {
  private readonly environmentInjector = inject(EnvironmentInjector);
  private made: ComponentRef<HintAnchor> | undefined;
  private control: HTMLElement | undefined;
  private readonly scrolled = (): void => this.end();

  /** A control is told of once it has been stayed at. */
  begin(control: HTMLElement, text: string): void {
    if (this.control === control && this.made?.instance.tooltip.active) return;
    this.end();
    this.control = control;
    const { left, top, width, height } = control.getBoundingClientRect();
    const { location, instance } = (this.made ??= this.make());
    const anchor = location.nativeElement as HTMLElement;
    Object.assign(anchor.style, { left: `${left}px`, top: `${top}px`, width: `${width}px`, height: `${height}px` });
    instance.tooltip.setOption({ tooltipLabel: text });
    instance.tooltip.activate();
    window.addEventListener('scroll', this.scrolled, true);
  }

  /** A control is not told of any more. @param control whichever it is, if not said */
  end(control = this.control): void {
    if (!control || control !== this.control) return;
    this.control = undefined;
    window.removeEventListener('scroll', this.scrolled, true);
    this.made?.instance.tooltip.deactivate();
  }

  private make(): ComponentRef<HintAnchor> {
    const { environmentInjector } = this;
    const made = createComponent(HintAnchor, { environmentInjector });
    document.body.append(made.location.nativeElement as HTMLElement);
    made.changeDetectorRef.detectChanges();
    return made;
  }
}
