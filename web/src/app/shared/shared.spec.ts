import { TestBed } from '@angular/core/testing';
import { isTyping } from './keys';
import { GroupComponent } from './group.component';

describe('isTyping', () => {
  it('leaves keys to fields, not to buttons', () => {
    const from = (element: HTMLElement): KeyboardEvent => ({ target: element }) as unknown as KeyboardEvent;
    const field = document.createElement('input');
    const box = document.createElement('input');
    box.type = 'checkbox';
    expect([field, box, document.createElement('button'), document.createElement('select')].map((e) => isTyping(from(e)))).toEqual([
      true,
      false,
      false,
      true,
    ]);
  });
});

describe('GroupComponent', () => {
  it('opens, shuts and remembers', async () => {
    localStorage.clear();
    const make = async () => {
      const fixture = TestBed.createComponent(GroupComponent);
      fixture.componentRef.setInput('name', 'Figures');
      await fixture.whenStable();
      return fixture;
    };
    const first = await make();
    const button = (first.nativeElement as HTMLElement).querySelector('button')!;
    expect(button.getAttribute('aria-expanded')).toBe('true');
    button.click();
    await first.whenStable();
    expect(button.getAttribute('aria-expanded')).toBe('false');
    const second = await make();
    expect((second.nativeElement as HTMLElement).querySelector('button')!.getAttribute('aria-expanded')).toBe('false');
  });
});
