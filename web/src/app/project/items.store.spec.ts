import { TestBed } from '@angular/core/testing';
import type { SaveTransfer, TransferJson } from '@hollow-stride/contract';
import { Subject } from 'rxjs';
import { ApiError } from '../api/answers';
import { ApiService } from '../api/api.service';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { ItemsStore } from './items.store';
import { ProjectStore } from './project.store';
import { RowsService } from './rows.service';

describe('results that are kept', () => {
  const row = (version: number, choices: object): TransferJson =>
    ({ id: 'r', take: 't', character: 'c', name: 'r', version, choices }) as never;
  const request = (n: number): Omit<SaveTransfer, 'base'> => ({ take: 't', character: 'c', choices: { n }, summary: {} }) as never;

  /** A store whose server answers when it is told to. */
  function made() {
    const sent: { request: SaveTransfer; answer: Subject<TransferJson> }[] = [];
    const asked: ((whose: 'mine' | 'theirs') => void)[] = [];
    const transfers: TransferJson[] = [];
    const faults: unknown[] = [];
    const saveTransfer = (request: SaveTransfer): Subject<TransferJson> => {
      const answer = new Subject<TransferJson>();
      sent.push({ request, answer });
      return answer;
    };
    TestBed.configureTestingModule({
      providers: [
        { provide: ApiService, useValue: { saveTransfer } },
        {
          provide: ProjectStore,
          useValue: { state: { rack: { transfers } }, keepTransfer: (one: TransferJson) => transfers.splice(0, 1, one) },
        },
        { provide: RowsService, useValue: { ask: (_: string, __: string[], answer: (typeof asked)[number]) => asked.push(answer) } },
        { provide: NoticesService, useValue: { failed: (fault: unknown) => faults.push(fault) } },
        { provide: HistoryService, useValue: { register: () => undefined } },
      ],
    });
    const answer = (version: number): void => {
      const last = sent[sent.length - 1];
      last.answer.next(row(version, last.request.choices));
      last.answer.complete();
    };
    const refuse = (now: TransferJson): void => sent[sent.length - 1].answer.error(new ApiError({ message: 'changed' } as never, 409, now));
    return { store: TestBed.inject(ItemsStore), bases: () => sent.map(({ request: { base } }) => base), asked, faults, answer, refuse };
  }

  it('are sent one after the other, each by the version that the one before it was given: nobody is asked about their own', () => {
    const { store, bases, asked, answer } = made();
    store.saveTransfer(request(1));
    store.saveTransfer(request(2));
    expect(bases()).toEqual([null]);
    answer(1);
    answer(2);
    expect(bases()).toEqual([null, 1]);
    expect(asked.length).toBe(0);
  });

  it('ask where another window kept another, and go on whatever is answered, or fails', () => {
    const { store, bases, asked, faults, answer, refuse } = made();
    store.saveTransfer(request(1));
    refuse(row(7, { n: 9 }));
    expect(asked.length).toBe(1);
    asked[0]('mine');
    expect(bases()).toEqual([null, 7]);
    refuse(row(8, { n: 1 }));
    expect(asked.length).withContext('the same choices').toBe(1);
    answer(9);
    store.saveTransfer(request(2));
    refuse(undefined as never);
    expect(faults.length).toBe(1);
    store.saveTransfer(request(3));
    expect(bases()).toEqual([null, 7, 8, 9, 9]);
  });
});
