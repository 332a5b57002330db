import { TestBed } from '@angular/core/testing';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideRouter, Router } from '@angular/router';
import { NgbConfig } from '@ng-bootstrap/ng-bootstrap';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { flushRack, makeRack, pageOf } from '../testing/rack';
import { AppComponent } from './app.component';
import { KEYS } from './keys.component';

describe('the frame', () => {
  const rack = makeRack();

  async function show() {
    localStorage.clear();
    TestBed.configureTestingModule({
      providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([{ path: '**', children: [] }])],
    });
    TestBed.inject(NgbConfig).animation = false;
    const fixture = TestBed.createComponent(AppComponent);
    flushRack(TestBed.inject(HttpTestingController), rack);
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement };
  }

  it('shows the trail, its stones done or not by word and shape', async () => {
    const { host } = await show();
    const stones = [...host.querySelectorAll('hs-trail a')].map((a) => a.textContent?.replace(/\s+/g, ' ').trim());
    expect(stones).toEqual([
      'Gather , done',
      'Label , not done yet',
      'Match , not done yet',
      'Solve , not done yet',
      'Mend , not done yet',
      'Check , not done yet',
      'Deliver , not done yet',
    ]);
  });

  it('lists the rack, searches it, and chooses from it', async () => {
    const { fixture, host } = await show();
    const names = (): string[] => [...host.querySelectorAll('hs-rack .item .name')].map((n) => n.firstChild!.textContent!.trim());
    expect(names()).toEqual(['Quay walk', 'Slow bow', 'Ferryman', 'Heron']);
    const field = host.querySelector<HTMLInputElement>('hs-rack input')!;
    field.value = 'ow';
    field.dispatchEvent(new Event('input'));
    const asked = TestBed.inject(HttpTestingController).expectOne(({ params }) => params.get('text') === 'ow');
    asked.flush(pageOf([rack.takes[1]], 2));
    await fixture.whenStable();
    expect(names()).toEqual(['Slow bow']);
    host.querySelector<HTMLButtonElement>('hs-rack .item')!.click();
    await fixture.whenStable();
    expect(host.querySelector('hs-rack .item')!.getAttribute('aria-pressed')).toBe('true');
  });

  it('walks to a station by its number, but not while somebody types', async () => {
    const { host } = await show();
    const router = TestBed.inject(Router);
    const walk = spyOn(router, 'navigateByUrl').and.resolveTo(true);
    window.dispatchEvent(new KeyboardEvent('keydown', { key: '7' }));
    expect(walk).toHaveBeenCalledWith('/deliver');
    host.querySelector('input')!.dispatchEvent(new KeyboardEvent('keydown', { key: '2', bubbles: true }));
    expect(walk).toHaveBeenCalledTimes(1);
  });

  it('undoes and redoes by the keyboard, but not while somebody types', async () => {
    const { host } = await show();
    const done: string[] = [];
    const history = TestBed.inject(HistoryService);
    history.register('test', (_, value) => done.push(value as string));
    history.did({ text: 'turn', edits: [{ kind: 'test', target: '', before: 'undo', after: 'redo' }] });
    const press = (target: EventTarget, shiftKey: boolean): unknown =>
      target.dispatchEvent(new KeyboardEvent('keydown', { key: 'z', ctrlKey: true, shiftKey, bubbles: true }));
    press(host.querySelector('input')!, false);
    expect(done).toEqual([]);
    press(window, false);
    press(window, true);
    expect(done).toEqual(['undo', 'redo']);
  });

  it('lists the keys', async () => {
    const { fixture } = await show();
    window.dispatchEvent(new KeyboardEvent('keydown', { key: '?' }));
    await fixture.whenStable();
    const dialog = document.querySelector('ngb-modal-window')!;
    expect(dialog.querySelectorAll('dt').length).toBe(KEYS.length);
    dialog.querySelector<HTMLButtonElement>('.btn-close')!.click();
    await fixture.whenStable();
  });

  it('folds the rack away', async () => {
    const { fixture, host } = await show();
    host.querySelector<HTMLButtonElement>('.fold')!.click();
    await fixture.whenStable();
    expect(host.querySelector('hs-rack')).toBeNull();
    expect(localStorage.getItem('hollow-stride.rack')).toBe('folded');
  });

  it('leaves the rack away on Gather, which is the rack with more room, and nowhere else', async () => {
    const { fixture, host } = await show();
    const router = TestBed.inject(Router);
    for (const [url, isThere] of [
      ['/gather', false],
      ['/gather/depot', true],
      ['/gather?tag=walk', false],
      ['/solve', true],
    ] as const) {
      await router.navigateByUrl(url);
      await fixture.whenStable();
      expect(host.querySelector('hs-rack') !== null)
        .withContext(url)
        .toBe(isThere);
    }
  });

  it('takes files that are dropped anywhere', async () => {
    const { fixture } = await show();
    const data = new DataTransfer();
    data.items.add(new File(['HIERARCHY'], 'a.bvh'));
    const over = new DragEvent('dragover', { dataTransfer: data, cancelable: true });
    window.dispatchEvent(over);
    expect(over.defaultPrevented).toBeTrue();
    window.dispatchEvent(new DragEvent('drop', { dataTransfer: data, cancelable: true }));
    await fixture.whenStable();
    const request = TestBed.inject(HttpTestingController).expectOne('/api/files');
    expect((request.request.body as FormData).getAll('file').length).toBe(1);
  });

  it('shows messages, lets faults stand until they are closed, and undoes', async () => {
    const { fixture, host } = await show();
    const notices = TestBed.inject(NoticesService);
    let undone = false;
    notices.done('taken off', () => (undone = true));
    notices.fault({ code: 'option', message: 'broken', where: { line: 3 } });
    await fixture.whenStable();
    // One at a time, in a place of its own, the latest first; the others at a press.
    expect([...host.querySelectorAll('.notice')].map((n) => n.textContent?.includes('line 3: broken'))).toEqual([true]);
    host.querySelector<HTMLButtonElement>('.foot .more')!.click();
    await fixture.whenStable();
    expect([...host.querySelectorAll('.notice')].map((n) => n.textContent?.includes('line 3: broken'))).toEqual([true, false]);
    [...host.querySelectorAll<HTMLButtonElement>('.notice button')].find((b) => b.textContent === 'Undo')!.click();
    host.querySelector<HTMLButtonElement>('.notice.fault .btn-close')!.click();
    await fixture.whenStable();
    expect([undone, host.querySelectorAll('.notice').length]).toEqual([true, 0]);
  });
});
