import { TestBed } from '@angular/core/testing';
import { pressable } from '../testing/fake-stage';
import type { Cell, Grid } from './grid';
import { CheckGridComponent } from './grid.component';

describe('the grid of a run as it is drawn', () => {
  const cell = (id: string, verdict: Cell['verdict'], review: 'none' | 'accepted' = 'none', better?: number): Cell =>
    ({
      item: { id, takeName: id, characterName: 'king', state: 'done', review },
      verdict,
      words: 'as it is',
      bars: [],
      better,
    }) as unknown as Cell;
  const gridOfRows = (count: number): Grid =>
    ({
      characters: [{ id: 'king', name: 'Tide-King' }],
      rows: Array.from({ length: count }, (_, i) => ({ take: `t${i}`, name: `take ${i}`, cells: [cell(`t${i}`, 'good')] })),
    }) as unknown as Grid;

  async function show(grid: Grid) {
    const fixture = TestBed.createComponent(CheckGridComponent);
    fixture.componentRef.setInput('grid', grid);
    // Nothing scrolls here: what comes with scrolling is pressed for.
    spyOn(window, 'IntersectionObserver').and.returnValue({ observe: () => undefined, disconnect: () => undefined } as never);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    return { fixture, host, rows: () => host.querySelectorAll('tbody tr').length };
  }

  it('draws a part of a large run, and more when it is asked for', async () => {
    const { fixture, host, rows } = await show(gridOfRows(100));
    expect(rows()).toBe(40);
    pressable(host, '60 more takes').click();
    await fixture.whenStable();
    expect(rows()).toBe(80);
    pressable(host, '20 more takes').click();
    await fixture.whenStable();
    expect(rows()).toBe(100);
    expect(host.querySelector('p')).toBeNull();
    fixture.componentRef.setInput('grid', gridOfRows(12));
    await fixture.whenStable();
    expect(rows()).toBe(12);
  });

  it('says of each cell what it is, and gives it when it is pressed', async () => {
    const whole = gridOfRows(1);
    const grid: Grid = { ...whole, rows: [{ ...whole.rows[0], cells: [cell('limp', 'fault', 'accepted', -1)] }] };
    const { fixture, host } = await show(grid);
    const picked: string[] = [];
    fixture.componentInstance.picked.subscribe(({ item }) => picked.push(item.id));
    pressable(host, 'limp on king: as it is, accepted, worse than before').click();
    expect(picked).toEqual(['limp']);
  });
});
