import { TestBed } from '@angular/core/testing';
import { SCHEME_FORMAT, SCHEME_VERSION, type NamingScheme } from '@hollow-stride/core';
import { IntakeStore } from '../project/intake.store';
import { ProjectStore } from '../project/project.store';
import { pressable } from '../testing/fake-stage';
import { makeBodyView } from '../testing/views';
import { LabelStore } from './label.store';
import { editsToProject } from '../testing/edits';
import { SchemesPanelComponent } from './schemes-panel.component';

describe('SchemesPanelComponent', () => {
  const scheme: NamingScheme = { format: SCHEME_FORMAT, version: SCHEME_VERSION, name: 'harbour suit', roles: { hips: 'Hips' } };
  const calls: unknown[] = [];

  async function show(known: object[]) {
    calls.length = 0;
    TestBed.configureTestingModule({
      providers: [
        {
          provide: LabelStore,
          useValue: {
            schemes: () => known,
            applyScheme: (of: NamingScheme) => calls.push(['apply', of.name]),
            keepScheme: (name: string) => calls.push(['keep', name]),
          },
        },
        ...editsToProject,
        {
          provide: ProjectStore,
          useValue: {
            remove: (kind: string, id: string, name: string) => calls.push(['remove', kind, id, name]),
          },
        },
        { provide: IntakeStore, useValue: { bringIn: (files: File[]) => calls.push(['bring', files.map(({ name }) => name)]) } },
      ],
    });
    const fixture = TestBed.createComponent(SchemesPanelComponent);
    fixture.componentRef.setInput('view', makeBodyView());
    await fixture.whenStable();
    return { fixture, host: fixture.nativeElement as HTMLElement };
  }

  it('lists schemes with how much fits, applies, exports and removes them', async () => {
    const { host } = await show([{ id: '1', scheme, score: 0.924, misses: 2 }]);
    expect(host.querySelector('.scheme')!.textContent).toContain('92 % fits');
    const saved = spyOn(HTMLAnchorElement.prototype, 'click');
    pressable(host, 'Apply the scheme harbour suit').click();
    pressable(host, 'Export the scheme harbour suit').click();
    pressable(host, 'Remove the scheme harbour suit from the rack').click();
    expect(calls).toEqual([
      ['apply', 'harbour suit'],
      ['remove', 'schemes', '1', 'harbour suit'],
    ]);
    expect((saved.calls.mostRecent().object as HTMLAnchorElement).download).toBe('harbour-suit.scheme.json');
  });

  it('does not offer a scheme that fits too little', async () => {
    const { host } = await show([{ id: '1', scheme, score: 0.05, misses: 20 }]);
    expect(host.querySelector('.scheme')!.textContent).toContain('does not fit');
    expect(host.querySelector('[aria-label^="Apply"]')).toBeNull();
    pressable(host, 'Remove the scheme harbour suit from the rack').click();
    expect(calls).toEqual([['remove', 'schemes', '1', 'harbour suit']]);
  });

  it('keeps labels by a name, and says what schemes are for where there are none', async () => {
    const { fixture, host } = await show([]);
    expect(host.textContent).toContain('the next skeleton of this kind gets them with one press');
    const button = pressable(host, 'Keep as scheme') as HTMLButtonElement;
    expect(button.disabled).toBeTrue();
    const name = host.querySelector<HTMLInputElement>('hs-keep-by-name input')!;
    name.value = '  night suit ';
    name.dispatchEvent(new Event('input'));
    await fixture.whenStable();
    button.click();
    expect(calls).toEqual([['keep', 'night suit']]);
    const data = new DataTransfer();
    data.items.add(new File(['{}'], 'a.scheme.json'));
    const file = host.querySelector<HTMLInputElement>('input[type=file]')!;
    file.files = data.files;
    file.dispatchEvent(new Event('change'));
    expect(calls.at(-1)).toEqual(['bring', ['a.scheme.json']]);
  });
});
