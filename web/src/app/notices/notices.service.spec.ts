import { TestBed } from '@angular/core/testing';
import { LiveAnnouncer } from '@angular/cdk/a11y';
import { type Notice, NoticesService } from './notices.service';

describe('notices', () => {
  let notices: NoticesService;
  let shown: readonly Notice[];
  const said: [string, string][] = [];

  beforeEach(() => {
    jasmine.clock().install();
    said.length = 0;
    const announce = (text: string, how: string): Promise<void> => {
      said.push([text, how]);
      return Promise.resolve();
    };
    TestBed.configureTestingModule({ providers: [{ provide: LiveAnnouncer, useValue: { announce } }] });
    notices = TestBed.inject(NoticesService);
    notices.notices$.subscribe((list) => (shown = list));
  });
  afterEach(() => jasmine.clock().uninstall());

  const texts = (): string[] => shown.map(({ text }) => text);

  it('go by themselves, but for faults, which stay until they are closed', () => {
    notices.done('kept');
    notices.caution('one name stands twice');
    notices.fault({ code: 'option', message: 'the file cannot be read', where: { file: 'walk.bvh', line: 12 } });
    jasmine.clock().tick(7000);
    expect(shown.length).toBe(3);
    jasmine.clock().tick(2000);
    expect(shown.length).toBe(1);
    expect(shown[0].text).toContain('the file cannot be read');
    expect(shown[0].text).toContain('12');
    notices.close(shown[0].id);
    expect(shown).toEqual([]);
  });

  it('are read out: faults at once, others when there is time', () => {
    notices.done('kept');
    notices.fault({ code: 'option', message: 'no legs', where: {} });
    expect(said.map(([, how]) => how)).toEqual(['polite', 'assertive']);
    expect(said[0][0]).toBe('kept');
  });

  it('take back what they tell of, once', () => {
    let back = 0;
    notices.done('moved a plant', () => back++);
    notices.undo(shown[0]);
    expect(back).toBe(1);
    expect(shown).toEqual([]);
    jasmine.clock().tick(9000);
    expect(back).toBe(1);
  });

  it('are never more than three that go by themselves, the oldest going first', () => {
    for (const text of ['a', 'b', 'c', 'd', 'e']) notices.done(text);
    expect(texts()).toEqual(['c', 'd', 'e']);
    // A notice that has gone already is not closed a second time in the place of another.
    jasmine.clock().tick(7999);
    notices.done('f');
    jasmine.clock().tick(2);
    expect(texts()).toEqual(['f']);
  });
});
