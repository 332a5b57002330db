import type { ComponentFixture } from '@angular/core/testing';
import { By } from '@angular/platform-browser';
import { TakePickerComponent } from '../shared/take-picker.component';

/** Chooses a take in the field of some label, as somebody does who has found it there. */
export function chooseTake({ debugElement }: ComponentFixture<unknown>, label: string, take: string): void {
  const found = debugElement
    .queryAll(By.directive(TakePickerComponent))
    .map(({ componentInstance }) => componentInstance as TakePickerComponent);
  const picker = found.find((one) => one.label() === label);
  if (!picker) throw new Error(`no field for a take is labelled "${label}"`);
  picker.choose.emit(take);
}
