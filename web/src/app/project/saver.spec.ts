import { of, throwError, type Observable } from 'rxjs';
import { Saver } from './saver';

describe('Saver', () => {
  let sent: object[];
  let errors: unknown[];
  const send = (value: object): Observable<unknown> => {
    sent.push(value);
    return of(undefined);
  };

  beforeEach(() => {
    jasmine.clock().install();
    sent = [];
    errors = [];
  });
  afterEach(() => jasmine.clock().uninstall());

  it("sends one thing's changes once, merged, and another's apart", () => {
    const saver = new Saver((error) => errors.push(error));
    saver.save('take 1', { note: 'a', tags: [] }, send);
    saver.save('take 1', { note: 'b' }, send);
    saver.save('take 2', { note: 'c' }, send);
    expect(sent).toEqual([]);
    jasmine.clock().tick(260);
    expect(sent).toEqual([{ note: 'b', tags: [] }, { note: 'c' }]);
  });

  it('sends what waits when the page is left', () => {
    const saver = new Saver((error) => errors.push(error));
    saver.save('take 1', { note: 'a' }, send);
    window.dispatchEvent(new Event('pagehide'));
    expect(sent).toEqual([{ note: 'a' }]);
    jasmine.clock().tick(500);
    expect(sent.length).toBe(1);
  });

  it('tells when the server refuses', () => {
    const saver = new Saver((error) => errors.push(error));
    saver.save('take 1', { note: 'a' }, () => throwError(() => 'no'));
    saver.flush();
    expect(errors).toEqual(['no']);
  });
});
