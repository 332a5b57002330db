import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { DEFAULT_OUTPUT, runOutputSchema, type RunOutput } from '@hollow-stride/contract';
import * as v from 'valibot';
import { OutputFormComponent } from './output-form.component';

describe('how files are written', () => {
  let fixture: ComponentFixture<OutputFormComponent>;
  let value: RunOutput;
  const host = (): HTMLElement => fixture.nativeElement as HTMLElement;
  const show = (change: Partial<RunOutput> = {}, many = true): void => {
    value = { ...DEFAULT_OUTPUT, ...change };
    fixture.componentRef.setInput('value', value);
    fixture.componentRef.setInput('many', many);
    fixture.detectChanges();
  };
  /** The control in the label that has these words. */
  const control = <T extends HTMLElement = HTMLInputElement>(words: string): T => {
    const label = [...host().querySelectorAll('label')].find((one) => one.textContent.includes(words));
    if (!label) throw new Error(`nothing says ${words}`);
    return label.querySelector<T>('input, select')!;
  };
  const choose = (words: string, option: string): void => {
    const select = control<HTMLSelectElement>(words);
    select.value = [...select.options].find(({ textContent }) => textContent.trim() === option)!.value;
    select.dispatchEvent(new Event('change'));
  };
  const press = (name: string): void => [...host().querySelectorAll('button')].find((one) => one.textContent.trim() === name)!.click();
  const says = (words: string): boolean => host().textContent.includes(words);

  beforeEach(() => {
    fixture = TestBed.createComponent(OutputFormComponent);
    fixture.componentInstance.changed.subscribe((to) => {
      // Whatever a person sets here the server takes.
      expect(v.safeParse(runOutputSchema, to).success).toBeTrue();
      show(to);
    });
  });

  it('gives what is set and leaves all else', () => {
    show();
    press('all BVH');
    expect(value).toEqual({ ...DEFAULT_OUTPUT, format: 'bvh' });
    press('as it came');
    press('all in place');
    choose('frame rate', '30 a second');
    choose('BVH: unit', 'inches');
    choose('BVH: up axis', '+Z');
    expect(value).toEqual({ ...DEFAULT_OUTPUT, inPlace: true, fps: 30, unit: 0.0254, up: '+Z' });
    press('as set');
    choose('frame rate', 'as each take');
    choose('BVH: unit', 'as it came');
    choose('BVH: up axis', 'as it came');
    expect(value).toEqual(DEFAULT_OUTPUT);
  });

  it('asks only for what the format has', () => {
    show({ format: 'bvh' });
    expect([says('BVH: unit'), says('without mesh'), says('fewer keys'), says('in one GLB file')]).toEqual([true, false, false, false]);
    show({ format: 'glb' });
    expect([says('BVH: unit'), says('fewer keys'), says('in one GLB file')]).toEqual([false, true, true]);
    show({ format: 'glb' }, false);
    expect([says('in one GLB file'), says('frame rate'), says('root motion')]).toEqual([false, false, false]);
  });

  it('asks for a tolerance and a seam only where they are wanted, and begins with what is usual', () => {
    show();
    expect(says('within')).toBeFalse();
    control('fewer keys').click();
    expect(value.tolerance).toBe(1);
    expect(host().querySelector<HTMLInputElement>('hs-number input')!.value).toBe('1');
    control('fewer keys').click();
    expect(value.tolerance).toBeNull();
    control('loop').click();
    expect(value.loop).toBe(0.3);
    control('loop').click();
    expect(value).toEqual(DEFAULT_OUTPUT);
  });

  it('keeps unlabelled joints unless a person leaves them out', () => {
    show();
    expect(control('labelled joints only').checked).toBeFalse();
    control('labelled joints only').click();
    expect(value.unlabelled).toBeFalse();
    expect(control('labelled joints only').checked).toBeTrue();
  });
});
