import { TestBed } from '@angular/core/testing';
import { HistoryComponent } from './history.component';
import { HistoryService } from './history.service';

describe('HistoryComponent', () => {
  it('undoes, redoes, and goes back to a step of the list', async () => {
    sessionStorage.clear();
    const history = TestBed.inject(HistoryService);
    const fixture = TestBed.createComponent(HistoryComponent);
    const host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
    const button = (name: string): HTMLButtonElement =>
      [...host.querySelectorAll('button')].find((b) => b.textContent!.trim().startsWith(name))!;
    expect([button('Undo').disabled, button('Redo').disabled, button('steps').disabled]).toEqual([true, true, true]);
    const done: string[] = [];
    history.register('test', (target, value) => done.push(`${value as string}${target}`));
    for (const text of ['trim', 'turn', 'lift']) history.did({ text, edits: [{ kind: 'test', target: text, before: '-', after: '+' }] });
    await fixture.whenStable();
    expect(button('Undo').title).toBe('Undo: lift (Ctrl+Z)');
    button('Undo').click();
    await fixture.whenStable();
    expect(button('Redo').title).toBe('Redo: lift (Ctrl+Shift+Z)');
    button('Redo').click();
    await fixture.whenStable();
    expect([...host.querySelectorAll('.list button')].map((b) => b.textContent!.trim())).toEqual([
      'trim',
      'turn',
      'lift (now)',
      'before all of these',
    ]);
    button('trim').click();
    await fixture.whenStable();
    expect(done).toEqual(['-lift', '+lift', '-lift', '-turn']);
    button('before all').click();
    expect(done.at(-1)).toBe('-trim');
  });
});
