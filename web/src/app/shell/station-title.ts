import { inject, Injectable } from '@angular/core';
import { Title } from '@angular/platform-browser';
import { TitleStrategy, type RouterStateSnapshot } from '@angular/router';

/** "Solve – Hollow Stride" in the window's title. */
@Injectable({ providedIn: 'root' })
export class StationTitle extends TitleStrategy {
  private readonly title = inject(Title);

  override updateTitle(state: RouterStateSnapshot): void {
    const station = this.buildTitle(state);
    this.title.setTitle(station ? `${station} – Hollow Stride` : 'Hollow Stride');
  }
}
