import { afterRenderEffect, Directive, ElementRef, inject, input } from '@angular/core';

/** Scrolls an item of a list into sight when it becomes the chosen one; where it is seen already nothing moves. */
@Directive({ selector: '[hsInSight]' })
export class InSightDirective {
  readonly isChosen = input.required<boolean>({ alias: 'hsInSight' });

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    afterRenderEffect(() => {
      if (this.isChosen()) host.scrollIntoView({ block: 'nearest' });
    });
  }
}
