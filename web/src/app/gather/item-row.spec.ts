import { TestBed } from '@angular/core/testing';
import { ItemRowComponent } from './item-row.component';

describe('a line of the rack', () => {
  async function show(inputs: Readonly<Record<string, unknown>> = {}) {
    const fixture = TestBed.createComponent(ItemRowComponent);
    for (const [name, value] of Object.entries({ kind: 'take', title: 'Quay walk', file: 'abc', ...inputs }))
      fixture.componentRef.setInput(name, value);
    document.body.append(fixture.nativeElement as HTMLElement);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const told: string[] = [];
    const row = fixture.componentInstance;
    row.renamed.subscribe((name) => told.push(`renamed ${name}`));
    row.remove.subscribe(() => told.push('removed'));
    row.choose.subscribe(() => told.push('chosen'));
    row.mark.subscribe(() => told.push('marked'));
    const press = async (name: string): Promise<void> => {
      [...host.querySelectorAll<HTMLElement>('button, a')].find((one) => (one.title || one.textContent!.trim()) === name)!.click();
      await fixture.whenStable();
    };
    const field = (): HTMLInputElement | null => host.querySelector('input.form-control');
    return { fixture, host, told, press, field };
  }
  afterEach(() => document.querySelectorAll('body > [ng-version], body > div[id^=root]').forEach((one) => one.remove()));

  it('is chosen by its name, says so, and can be taken off and downloaded', async () => {
    const { host, told, press } = await show({ chosen: true });
    await press('Quay walk');
    await press('Remove Quay walk from the rack');
    expect(told).toEqual(['chosen', 'removed']);
    expect(host.querySelector('.name')!.getAttribute('aria-pressed')).toBe('true');
    expect(host.querySelector('a')!.getAttribute('href')).toBe('/api/files/abc');
  });

  it('is renamed in its place: kept by Enter, or by going elsewhere, and once only', async () => {
    for (const end of ['enter', 'blur']) {
      const { fixture, told, press, field } = await show();
      await press('Rename Quay walk');
      field()!.value = 'Night walk';
      if (end === 'enter') field()!.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
      else field()!.dispatchEvent(new Event('blur'));
      await fixture.whenStable();
      expect(told).withContext(end).toEqual(['renamed Night walk']);
      expect(field()).toBeNull();
    }
  });

  it('keeps its name when Escape is pressed', async () => {
    const { fixture, told, press, field } = await show();
    await press('Rename Quay walk');
    field()!.value = 'Night walk';
    field()!.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
    await fixture.whenStable();
    expect([told, field()]).toEqual([[], null]);
  });

  it('has a box to be chosen with others, where it can be', async () => {
    const { host } = await show();
    expect(host.querySelector('input[type=checkbox]')).toBeNull();
    const several = await show({ marked: true });
    const box = several.host.querySelector<HTMLInputElement>('input[type=checkbox]')!;
    expect(box.checked).toBeTrue();
    expect(box.closest('label')!.textContent).toContain('Quay walk');
    box.click();
    expect(several.told).toEqual(['marked']);
  });
});
