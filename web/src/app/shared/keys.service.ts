import { DestroyRef, inject, Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import { isTyping } from './keys';

/** Handles a key: true when it did something. */
export type KeyHandler = (event: KeyboardEvent) => boolean;

const REMEMBERED = 'hollow-stride.letters';

/**
 * The one place where keys of the page are heard. Who listens is asked, the latest first, unless somebody types, a dialog is open, or
 * what has the focus needs the key itself. Keys of a single letter or digit can be switched off.
 */
@Injectable({ providedIn: 'root' })
export class KeysService {
  private readonly downs: { readonly handler: KeyHandler; readonly withControl: boolean }[] = [];
  private readonly ups: ((event: KeyboardEvent) => void)[] = [];
  private isSpaceDone = false;
  private readonly letters = new BehaviorSubject(localStorage.getItem(REMEMBERED) !== 'off');
  /** Whether single letters and digits are keys. */
  readonly letters$ = this.letters.asObservable();

  constructor() {
    const down = (event: KeyboardEvent): void => this.down(event);
    const up = (event: KeyboardEvent): void => this.up(event);
    addEventListener('keydown', down);
    addEventListener('keyup', up);
    inject(DestroyRef).onDestroy(() => {
      removeEventListener('keydown', down);
      removeEventListener('keyup', up);
    });
  }

  setLetters(on: boolean): void {
    localStorage.setItem(REMEMBERED, on ? 'on' : 'off');
    this.letters.next(on);
  }

  /**
   * Hears keys until the component that calls this is gone.
   * @param up told of every key that is let go
   * @param withControl hears keys that are pressed with the control or command key, too
   */
  listen(handler: KeyHandler, up?: (event: KeyboardEvent) => void, withControl = false): void {
    const down = { handler, withControl };
    this.downs.unshift(down);
    if (up) this.ups.push(up);
    inject(DestroyRef).onDestroy(() => {
      this.downs.splice(this.downs.indexOf(down), 1);
      if (up) this.ups.splice(this.ups.indexOf(up), 1);
    });
  }

  private down(event: KeyboardEvent): void {
    if (event.defaultPrevented || isTyping(event) || document.querySelector('.modal.show') || needsItself(event)) return;
    const isLetter = /^[\p{L}\p{N},.?]$/u.test(event.key) && !event.ctrlKey && !event.metaKey;
    if (isLetter && !this.letters.value) return;
    const isControlled = event.ctrlKey || event.metaKey;
    const isDone = this.downs.some(({ handler, withControl }) => (!isControlled || withControl) && handler(event));
    if (event.key === ' ') this.isSpaceDone = isDone;
    if (isDone) event.preventDefault();
  }

  private up(event: KeyboardEvent): void {
    // A button that has the focus would be pressed when the space bar is let go.
    if (event.key === ' ' && this.isSpaceDone) event.preventDefault();
    for (const up of this.ups) up(event);
  }
}

/** True where only the space bar works what has the focus: boxes, and lines of a menu. */
function needsItself({ key, target }: KeyboardEvent): boolean {
  if (key !== ' ' || !(target instanceof HTMLElement)) return false;
  return target.matches('input[type=checkbox], input[type=radio], select, summary, [role=menuitem], [role=option], [role=slider]');
}
