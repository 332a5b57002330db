import { TestBed } from '@angular/core/testing';
import { NumberComponent } from './number.component';

describe('NumberComponent', () => {
  async function show(inputs: Record<string, unknown>) {
    const fixture = TestBed.createComponent(NumberComponent);
    for (const [key, value] of Object.entries({ name: 'lift', unit: '°', value: 10, ...inputs })) fixture.componentRef.setInput(key, value);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const given: (number | string)[] = [];
    fixture.componentInstance.changed.subscribe((value) => given.push(value));
    fixture.componentInstance.cleared.subscribe(() => given.push('cleared'));
    return { field: host.querySelector('input')!, name: host.querySelector('.name')!, given };
  }
  const type = (field: HTMLInputElement, text: string): void => {
    field.value = text;
    field.dispatchEvent(new Event('change'));
  };

  it('takes what is typed, with a comma too, held to its limits; and nothing that is no number', async () => {
    const { field, given } = await show({ low: -180, high: 180 });
    type(field, '12,5');
    type(field, '900');
    type(field, 'much');
    expect(given).toEqual([12.5, 180]);
    expect(field.value).toBe('10');
    expect(field.getAttribute('aria-label')).toBe('lift, °');
  });

  it('steps by arrow keys, ten at a time with Shift', async () => {
    const { field, given } = await show({ step: 0.5 });
    const press = (key: string, shiftKey = false): unknown => field.dispatchEvent(new KeyboardEvent('keydown', { key, shiftKey }));
    press('ArrowUp');
    press('ArrowDown', true);
    expect(given).toEqual([10.5, 5]);
  });

  it('is dragged by its name, and reset by a double click', async () => {
    const { name, given } = await show({});
    const at = (kind: string, clientX: number): unknown => name.dispatchEvent(new PointerEvent(kind, { clientX, pointerId: 1 }));
    spyOn(Element.prototype, 'setPointerCapture');
    spyOn(Element.prototype, 'releasePointerCapture');
    at('pointerdown', 100);
    at('pointermove', 112);
    at('pointerup', 112);
    at('pointermove', 200);
    name.dispatchEvent(new MouseEvent('dblclick'));
    expect(given).toEqual([13, 'cleared']);
    const usual = await show({ usual: 0 });
    usual.name.dispatchEvent(new MouseEvent('dblclick'));
    expect(usual.given).toEqual([0]);
  });
});
