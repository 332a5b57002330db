import { DestroyRef, inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router, type Params } from '@angular/router';
import { BehaviorSubject, combineLatest, debounceTime, distinctUntilChanged, filter, map, type Observable, switchMap, timer } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { PlaybackService } from '../timeline/playback.service';

/** Something of a station that its address carries. */
export interface Part {
  readonly value$: Observable<string | undefined>;
  readonly adopt: (value: string) => void;
}

/** The address follows the playhead when it has stood still for so long, ms. */
const STILL = 400;

/**
 * Keeps the address and what is shown the same: take, character, frame (from 1) and what a station has selected. Reloading, going back
 * and a pasted link show the same. Another take or character is a step to go back from; the rest replaces the address.
 */
@Injectable({ providedIn: 'root' })
export class AddressService {
  private readonly router = inject(Router);
  private readonly project = inject(ProjectStore);
  private readonly playback = inject(PlaybackService);
  private readonly parts = new BehaviorSubject<ReadonlyMap<string, Part>>(new Map());
  /** As the address says: what it is compared with before it is changed. */
  private last: Params = {};

  /** Begins; what the page's own address says is taken over first. */
  follow(): void {
    this.router.events.pipe(filter((event) => event instanceof NavigationEnd)).subscribe(() => this.adopt());
    const selected$ = this.project.selection$.pipe(map(({ take, character }): Params => ({ take, character })));
    const frame$ = this.playback.state$.pipe(
      map(({ frame, frames, playing }) => (frames === 0 || playing ? undefined : frame + 1)),
      distinctUntilChanged(),
      debounceTime(STILL),
    );
    const parts$ = this.parts.pipe(
      switchMap((parts) =>
        parts.size === 0
          ? timer(0).pipe(map((): Params => ({})))
          : combineLatest([...parts].map(([name, { value$ }]) => value$.pipe(map((value) => [name, value] as const)))).pipe(
              map((list): Params => Object.fromEntries(list)),
            ),
      ),
    );
    const arrived$ = this.router.events.pipe(filter((event) => event instanceof NavigationEnd));
    combineLatest([
      selected$,
      frame$,
      parts$,
      arrived$,
      this.project.state$.pipe(
        map(({ loaded }) => loaded),
        distinctUntilChanged(),
      ),
    ])
      .pipe(debounceTime(0))
      .subscribe(([selected, frame, parts, , loaded]) => {
        if (loaded) this.write({ ...selected, ...(frame === undefined ? {} : { frame: String(frame) }), ...parts });
      });
  }

  /** Lets the address carry something of a station for as long as it is shown. */
  carry(name: string, part: Part): void {
    const value = this.router.parseUrl(this.router.url).queryParams[name] as string | undefined;
    if (value !== undefined) part.adopt(value);
    this.parts.next(new Map(this.parts.value).set(name, part));
    const destroyed = inject(DestroyRef);
    destroyed.onDestroy(() => {
      const rest = new Map(this.parts.value);
      rest.delete(name);
      this.parts.next(rest);
    });
    this.router.events
      .pipe(
        filter((event) => event instanceof NavigationEnd),
        takeUntilDestroyed(destroyed),
      )
      .subscribe(() => {
        const now = this.router.parseUrl(this.router.url).queryParams[name] as string | undefined;
        if (now !== undefined && now !== this.last[name]) part.adopt(now);
      });
  }

  /** Takes over what the address says: it was typed, pasted, or gone back to. */
  private adopt(): void {
    const { take, character, frame } = this.router.parseUrl(this.router.url).queryParams as Record<string, string | undefined>;
    const { selection } = this.project.state;
    const isOther = (take !== undefined && take !== selection.take) || (character !== undefined && character !== selection.character);
    if (take !== undefined && take !== selection.take) {
      this.project.find(take);
      this.project.choose({ take });
    }
    if (character !== undefined && character !== selection.character) this.project.choose({ character });
    const place = Number(frame);
    if (frame !== undefined && frame !== this.last['frame'] && Number.isInteger(place) && place >= 1) {
      if (isOther || this.playback.state.frames === 0) this.playback.openAt(place - 1);
      else this.playback.seek(place - 1);
    }
    this.last = this.router.parseUrl(this.router.url).queryParams;
  }

  private write(wanted: Params): void {
    // On the way to a page, nothing is written over where it goes; the end of the way comes back here.
    if (this.router.getCurrentNavigation()) return;
    const tree = this.router.parseUrl(this.router.url);
    const next = Object.fromEntries(
      Object.entries({ ...tree.queryParams, ...wanted }).filter(([, value]) => value !== undefined),
    ) as Params;
    // The selection that a station carried goes with it.
    for (const name of Object.keys(next)) if (!KNOWN.has(name) && !(name in wanted)) Reflect.deleteProperty(next, name);
    if (JSON.stringify(sorted(next)) === JSON.stringify(sorted(tree.queryParams))) return;
    const isStep = ['take', 'character'].some((name) => tree.queryParams[name] !== undefined && tree.queryParams[name] !== next[name]);
    this.last = next;
    tree.queryParams = next;
    void this.router.navigateByUrl(tree, { replaceUrl: !isStep });
  }
}

const KNOWN = new Set(['take', 'character', 'frame']);

const sorted = (params: Params): [string, unknown][] =>
  Object.entries(params as Record<string, unknown>).sort(([a], [b]) => (a < b ? -1 : 1));
