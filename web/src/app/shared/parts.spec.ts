import { TestBed } from '@angular/core/testing';
import type { Type } from '@angular/core';
import { provideRouter, Router, TitleStrategy } from '@angular/router';
import { Title } from '@angular/platform-browser';
import { ChoicesComponent, type Choice } from './choices.component';
import { KeepByNameComponent } from './keep-by-name.component';
import { ProportionsComponent } from './proportions.component';
import { RefusalComponent } from './refusal.component';
import { SparklineComponent } from './sparkline.component';
import { StationTitle } from '../shell/station-title';

async function show<T>(component: Type<T>, inputs: Readonly<Record<string, unknown>>) {
  const fixture = TestBed.createComponent(component);
  for (const [name, value] of Object.entries(inputs)) fixture.componentRef.setInput(name, value);
  await fixture.whenStable();
  return { fixture, part: fixture.componentInstance, host: fixture.nativeElement as HTMLElement };
}

describe('a row of choices', () => {
  const choices: Choice[] = [
    { value: 'take', name: 'as the take' },
    { value: 'zero', name: 'at zero', title: 'the floor at height 0' },
    { value: 'none', name: 'none', disabled: true },
  ];

  it('is a named group in which one is pressed', async () => {
    const { host, fixture } = await show(ChoicesComponent, { label: 'Floor', choices, value: 'zero' });
    expect(host.querySelector('[role=group]')!.getAttribute('aria-label')).toBe('Floor');
    const pressed = (): (string | null)[] => [...host.querySelectorAll('button')].map((button) => button.getAttribute('aria-pressed'));
    expect(pressed()).toEqual(['false', 'true', 'false']);
    fixture.componentRef.setInput('value', 'take');
    await fixture.whenStable();
    expect(pressed()).toEqual(['true', 'false', 'false']);
  });

  it('tells what was chosen, and nothing of what cannot be', async () => {
    const { host, part } = await show(ChoicesComponent, { label: 'Floor', choices, value: 'zero' });
    const chosen: string[] = [];
    part.chosen.subscribe((value) => chosen.push(value));
    for (const button of host.querySelectorAll('button')) button.click();
    expect(chosen).toEqual(['take', 'zero']);
    expect([...host.querySelectorAll('button')].map(({ title }) => title)).toEqual(['', 'the floor at height 0', '']);
  });
});

describe('keeping something by a name', () => {
  async function ready() {
    const { host, part, fixture } = await show(KeepByNameComponent, { label: 'Name of the version' });
    const kept: string[] = [];
    part.kept.subscribe((name) => kept.push(name));
    const field = host.querySelector('input')!;
    const type = async (text: string): Promise<void> => {
      field.value = text;
      field.dispatchEvent(new Event('input'));
      await fixture.whenStable();
    };
    return { kept, field, type, button: host.querySelector('button')!, fixture };
  }

  it('needs a name, trims it, and is empty afterwards', async () => {
    const { kept, field, type, button, fixture } = await ready();
    expect(button.disabled).toBeTrue();
    await type('   ');
    expect(button.disabled).toBeTrue();
    await type('  calmer arms ');
    button.click();
    await fixture.whenStable();
    expect([kept, field.value, button.disabled]).toEqual([['calmer arms'], '', true]);
  });

  it('is done by Enter too, but not with nothing', async () => {
    const { kept, field, type } = await ready();
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    await type('x');
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    expect(kept).toEqual(['x']);
  });
});

describe('a refusal', () => {
  it('says at once what cannot be done, why and where, and leads to the station that helps', async () => {
    TestBed.configureTestingModule({ providers: [provideRouter([])] });
    const { host } = await show(RefusalComponent, {
      what: 'This take cannot be solved.',
      fault: { code: 'label/missing', message: 'no left foot', where: { file: 'walk.bvh', joint: 'hips', frame: 12 } },
      link: '/label',
    });
    const alert = host.querySelector('[role=alert]')!;
    expect(alert.querySelector('b')!.textContent).toBe('This take cannot be solved.');
    for (const part of ['walk.bvh', 'hips', '12', 'no left foot']) expect(alert.querySelector('p')!.textContent).toContain(part);
    expect(alert.querySelector('a')!.getAttribute('href')).toBe('/label');
  });
});

describe('a drawing of proportions', () => {
  it('has a line for every bone, upright and as large as the body', async () => {
    const { host } = await show(ProportionsComponent, { drawing: [0, 0.5, 0, 1, -0.2, 0, 0.2, 0.5] });
    expect(host.querySelector('path')!.getAttribute('d')).toBe('M0 -25L0 -50M-10 0L10 -25');
  });

  it('is empty for nothing, and leaves out what is no whole bone', async () => {
    for (const drawing of [[], [1, 2, 3]]) {
      const { host } = await show(ProportionsComponent, { drawing });
      expect(host.querySelector('path')!.getAttribute('d')).toBe('');
    }
  });
});

describe('a trace of the feet', () => {
  const pointsOf = async (values: readonly number[]): Promise<number[][]> => {
    const { host } = await show(SparklineComponent, { values });
    const text = host.querySelector('polyline')!.getAttribute('points')!;
    return text === '' ? [] : text.split(' ').map((pair) => pair.split(',').map(Number));
  };

  it('goes from left to right within its box, highest where a foot is highest', async () => {
    const points = await pointsOf([0, 0.1, 0.4, 0.2, 0]);
    expect(points.map(([x]) => x)).toEqual([0, 15, 30, 45, 60]);
    expect(points.every(([, y]) => y >= 0 && y <= 20)).toBeTrue();
    expect(points.map(([, y]) => y).indexOf(Math.min(...points.map(([, y]) => y)))).toBe(2);
  });

  it('does not make hills of what hardly moves, nor breaks of one value or none', async () => {
    expect((await pointsOf([0.001, 0.002])).every(([, y]) => y > 17)).toBeTrue();
    expect(await pointsOf([])).toEqual([]);
    expect(await pointsOf([0.3])).toEqual([[0, 2]]);
  });
});

describe('the title of the window', () => {
  it('is the station’s, and the product’s alone where there is none', async () => {
    TestBed.configureTestingModule({
      providers: [
        provideRouter([
          { path: 'solve', title: 'Solve', children: [] },
          { path: 'none', children: [] },
        ]),
        { provide: TitleStrategy, useClass: StationTitle },
      ],
    });
    const [router, title] = [TestBed.inject(Router), TestBed.inject(Title)];
    await router.navigateByUrl('/solve');
    expect(title.getTitle()).toBe('Solve – Hollow Stride');
    await router.navigateByUrl('/none');
    expect(title.getTitle()).toBe('Hollow Stride');
  });
});
