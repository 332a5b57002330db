import { TestBed } from '@angular/core/testing';
import type { FactsJson } from '@hollow-stride/contract';
import { makeRack } from '../testing/rack';
import { FactsPanelComponent } from './facts-panel.component';

describe('FactsPanelComponent', () => {
  const { takes, characters, skeletons } = makeRack();

  async function show(facts: FactsJson, bytes = 2_655_671): Promise<HTMLElement> {
    localStorage.setItem('hollow-stride.group.Labels', '1');
    const fixture = TestBed.createComponent(FactsPanelComponent);
    fixture.componentRef.setInput('facts', facts);
    fixture.componentRef.setInput('fileName', 'quay-walk.bvh');
    fixture.componentRef.setInput('bytes', bytes);
    fixture.componentRef.setInput('skeleton', skeletons[0]);
    await fixture.whenStable();
    return fixture.nativeElement as HTMLElement;
  }

  const text = (host: HTMLElement): string => host.textContent!.replace(/\s+/g, ' ');

  it('says length, rate, unit, axes and rest pose, each guess with its reason', async () => {
    const host = await show(takes[0].facts);
    const body = takes[0].facts.body!;
    for (const part of ['2.7 MB', '60 frames at 60 a second', body.unit.reason, body.up.reason, body.rest.reason, 'clean'])
      expect(text(host)).toContain(part);
  });

  it('lists every label with how sure it is', async () => {
    const host = await show(takes[0].facts);
    const labels = takes[0].facts.labels!;
    const rows = [...host.querySelectorAll('tbody tr')];
    expect(rows.length).toBe(Object.keys(labels.roles).length);
    const hips = rows.find((r) => r.textContent?.startsWith('hips'))!;
    expect(hips.textContent).toContain(labels.roles['hips']);
    expect(hips.textContent).toContain(`${Math.round(labels.confidence['hips'] * 100)} %`);
  });

  it('shows what is missing and each caution with its place', async () => {
    const facts: FactsJson = {
      ...characters[0].facts,
      body: undefined,
      labels: { ...characters[0].facts.labels!, missing: ['left.foot'] },
      warnings: [{ code: 'bvh/frame-count', message: 'fewer frames than said', where: { line: 12 } }],
    };
    const host = await show(facts, 900);
    expect(text(host)).toContain('missing: left.foot');
    expect(text(host)).toContain('line 12: fewer frames than said');
    expect(text(host)).toContain('1 kB');
    expect(text(host)).not.toContain('facing');
  });

  it('says what is wrong with the samples, each kind once', async () => {
    const [clip] = takes[0].facts.clips;
    const fault = (kind: 'gap' | 'rest' | 'drift', from: number): (typeof clip.faults)[number] => ({
      kind,
      from,
      to: from + 4,
      joint: 'Spine',
      message: 'held',
    });
    const host = await show({
      ...takes[0].facts,
      clips: [{ ...clip, faults: [fault('rest', 0), fault('gap', 20), fault('gap', 40), fault('drift', 0)] }],
    });
    expect([...host.querySelectorAll('dd .caution')].map((c) => c.textContent?.trim())).toEqual(['rest at frame 1', '2 × gap', 'drift']);
  });

  it('says how the soles are known', async () => {
    const sole = async (known: string): Promise<string> => {
      const facts = takes[0].facts;
      return text(await show({ ...facts, body: { ...facts.body!, sole: { depth: 0.012, known } } }));
    };
    expect(await sole('mesh')).toContain('measured on the mesh');
    expect(await sole('rest')).toContain('stands on a floor at zero');
    expect(await sole('take')).toContain('how low the feet come');
    expect(await sole('no')).toContain('not known');
  });
});
