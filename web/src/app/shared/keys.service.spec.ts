import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { KeysService } from './keys.service';

@Component({
  selector: 'hs-hearing',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <input type="text" />
    <input type="checkbox" />
    <button type="button" (click)="presses.set(presses() + 1)">Press</button>
  `,
})
class Hearing {
  readonly presses = signal(0);
  readonly heard: string[] = [];
  readonly released: string[] = [];
  takes = true;

  constructor() {
    inject(KeysService).listen(
      ({ key }) => {
        this.heard.push(key);
        return this.takes;
      },
      ({ key }) => this.released.push(key),
    );
  }
}

describe('KeysService', () => {
  let fixture: ComponentFixture<Hearing>;
  let host: HTMLElement;
  beforeEach(async () => {
    localStorage.clear();
    fixture = TestBed.createComponent(Hearing);
    host = fixture.nativeElement as HTMLElement;
    document.body.append(host);
    await fixture.whenStable();
  });
  afterEach(() => fixture.destroy());

  const down = (on: EventTarget, key: string, more: KeyboardEventInit = {}): KeyboardEvent => {
    const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more });
    on.dispatchEvent(event);
    return event;
  };
  const element = (selector: string): HTMLElement => host.querySelector(selector)!;

  it('hears keys wherever the focus is, but for fields that are typed into', () => {
    down(element('button'), 'n');
    down(document.body, 'p');
    down(element('input[type=text]'), 'x');
    expect(fixture.componentInstance.heard).toEqual(['n', 'p']);
  });

  it('lets the space bar play and not press the button that has the focus', () => {
    expect(down(element('button'), ' ').defaultPrevented).toBeTrue();
    const up = new KeyboardEvent('keyup', { key: ' ', bubbles: true, cancelable: true });
    element('button').dispatchEvent(up);
    expect(up.defaultPrevented).toBeTrue();
    expect(fixture.componentInstance.heard).toEqual([' ']);
    // A box is ticked by nothing else.
    expect(down(element('input[type=checkbox]'), ' ').defaultPrevented).toBeFalse();
    expect(fixture.componentInstance.heard).toEqual([' ']);
  });

  it('switches letters off, for good, and no other key', () => {
    const keys = TestBed.inject(KeysService);
    keys.setLetters(false);
    down(document.body, 'n');
    down(document.body, '4');
    down(document.body, 'ArrowLeft');
    down(document.body, ' ');
    expect(fixture.componentInstance.heard).toEqual(['ArrowLeft', ' ']);
    expect(localStorage.getItem('hollow-stride.letters')).toBe('off');
    keys.setLetters(true);
    down(document.body, 'n');
    expect(fixture.componentInstance.heard.at(-1)).toBe('n');
  });

  it('leaves keys with Control to those who ask for them, and asks the latest first', () => {
    const told: string[] = [];
    TestBed.runInInjectionContext(() =>
      TestBed.inject(KeysService).listen(
        ({ key, ctrlKey }) => {
          told.push(key);
          return ctrlKey;
        },
        undefined,
        true,
      ),
    );
    expect(down(document.body, 'z', { ctrlKey: true }).defaultPrevented).toBeTrue();
    expect([told, fixture.componentInstance.heard]).toEqual([['z'], []]);
    down(document.body, 'n');
    expect([told, fixture.componentInstance.heard]).toEqual([['z', 'n'], ['n']]);
  });

  it('hears nothing for who is gone, nor what somebody else has done already', () => {
    const { heard } = fixture.componentInstance;
    const event = new KeyboardEvent('keydown', { key: 'n', bubbles: true, cancelable: true });
    event.preventDefault();
    document.body.dispatchEvent(event);
    fixture.destroy();
    down(document.body, 'n');
    expect(heard).toEqual([]);
  });
});
