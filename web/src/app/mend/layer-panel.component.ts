import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import {
  HELD_ENDS,
  LAYER_ENDS,
  LAYER_FRAMES,
  LAYER_PARTS,
  TANGENTS,
  type HeldEnd,
  type Layer,
  type LayerFrame,
  type LayerPart,
  type Tangent,
} from '@hollow-stride/core';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { MaskComponent } from '../shared/mask.component';
import { NumberComponent } from '../shared/number.component';
import { SolveStore } from '../solve/solve.store';
import { SAME_MOMENT } from '../solve/take-time.service';
import { PlaybackService } from '../timeline/playback.service';
import { LayerKeysStore } from './layer-keys.store';
import { LayersStore, type LayerEntry } from './layers.store';
import { nameOfTrack, type Track, type Triple } from './tracks';
import { AMOUNTS, frameName, PART_NAMES } from './words';

const WAYS: readonly Choice[] = [
  { value: 'add', name: 'added', title: 'Added to the motion' },
  { value: 'replace', name: 'in its place', title: 'In place of the motion' },
];
const SCOPES: readonly Choice[] = [
  { value: 'all', name: 'all takes', title: 'On every take of this performer on this character' },
  { value: 'take', name: 'this take' },
];
/** A layer of so many joints is shown open. */
const FEW = 3;
/** The layer that is worked on: what it keys or filters, how strongly, and when. */
@Component({
  selector: 'hs-layer-panel',
  imports: [AsyncPipe, ChoicesComponent, MaskComponent, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './layer-panel.component.html',
  styleUrl: './layer-panel.component.scss',
})
export class LayerPanelComponent {
  protected readonly store = inject(LayersStore);
  protected readonly keys = inject(LayerKeysStore);
  protected readonly playback = inject(PlaybackService);
  private readonly solve = inject(SolveStore);
  protected readonly solve$ = this.solve.state$;
  protected readonly ways = WAYS;
  protected readonly scopes = SCOPES;
  protected readonly amounts = AMOUNTS;
  protected readonly axes = [0, 1, 2] as const;
  protected readonly parts = LAYER_PARTS;
  protected readonly partNames = PART_NAMES;
  protected readonly heldEnds = HELD_ENDS;
  protected chosen(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }

  /** Frames that a limb end's place can go with: not its own, and of things beside the body those that the character has. */
  protected framesFor(end: string): Choice[] {
    const props = (this.solve.state.solved?.props ?? []).flatMap(({ role, joint }) => (joint === undefined ? [] : [role as LayerFrame]));
    const frames: LayerFrame[] = [...LAYER_FRAMES.filter((frame) => frame !== end), ...props];
    return frames.map((frame): Choice => ({ value: frame, name: frameName(frame) }));
  }
  protected readonly tangents = TANGENTS.map((tangent): Choice => ({ value: tangent, name: tangent }));
  protected readonly nameOf = nameOfTrack;
  protected readonly now = (): number => this.store.now;

  private readonly folded = signal<ReadonlySet<string>>(new Set());

  protected tracks({ layer: { does } }: LayerEntry): readonly Track[] {
    return does.kind === 'turns' || does.kind === 'reach' ? does.tracks : [];
  }

  /** Joints, or limb ends, that the layer does not key yet. */
  protected missing({ layer: { does } }: LayerEntry): readonly string[] {
    const roles = this.solve.state.solved?.roles ?? new Map<string, number>();
    if (does.kind === 'turns') return [...roles.keys()].filter((role) => !does.tracks.some((track) => track.role === role));
    if (does.kind === 'reach') return LAYER_ENDS.filter((end) => roles.has(end) && !does.tracks.some((track) => track.end === end));
    return [];
  }

  protected addTrack({ index }: LayerEntry, event: Event): void {
    const select = event.target as HTMLSelectElement;
    if (select.value !== '') this.keys.addTrack(index, select.value);
    select.value = '';
  }

  /** Of a layer that keys few joints all are open, of one that keys many those that were opened. */
  protected isOpen(entry: LayerEntry, track: Track): boolean {
    return this.tracks(entry).length <= FEW !== this.folded().has(nameOfTrack(track));
  }

  protected toggle(track: Track): void {
    const next = new Set(this.folded());
    if (!next.delete(nameOfTrack(track))) next.add(nameOfTrack(track));
    this.folded.set(next);
  }

  protected unit({ layer }: LayerEntry): string {
    return layer.does.kind === 'turns' ? '°' : 'cm';
  }

  protected setAmount({ index }: LayerEntry, track: number, axis: 0 | 1 | 2, amount: number): void {
    const value = [...this.keys.value(index, track)] as Triple;
    value[axis] = amount;
    this.keys.setValue(index, track, value, `amount ${index} ${track} ${axis}`);
  }

  protected setTangent({ index }: LayerEntry, track: number, tangent: string): void {
    const here = this.keys.keyHere(index, track);
    const own = this.keys.tracksOf(index)[track];
    if (!here) return;
    const keys = own.keys.map((one) => (one === here ? { ...one, tangent: tangent as Tangent, slope: null } : one));
    this.keys.setKeys(index, track, keys, `tangent of ${nameOfTrack(own)}`);
  }

  protected setFrame({ index }: LayerEntry, track: number, frame: string): void {
    this.keys.setFrame(index, track, frame as LayerFrame);
  }

  protected frameOf(track: Track): string {
    return 'frame' in track ? track.frame : '';
  }

  /** Whether there is a key before, or behind, the frame that is shown. */
  protected near({ index }: LayerEntry, track: number, way: -1 | 1): number | undefined {
    const now = this.store.now;
    const times =
      this.keys
        .tracksOf(index)
        .at(track)
        ?.keys.map(({ at }) => at) ?? [];
    return way < 0 ? times.filter((at) => at < now - SAME_MOMENT).at(-1) : times.find((at) => at > now + SAME_MOMENT);
  }

  protected go(at: number | undefined): void {
    if (at === undefined) return;
    this.playback.pause();
    this.playback.seek(Math.round(this.store.frameAt(at)));
  }

  protected hasPart({ layer: { does } }: LayerEntry, part: LayerPart): boolean {
    return 'parts' in does && (does.parts.length === 0 || does.parts.includes(part));
  }

  /** All parts are none said. */
  protected togglePart(entry: LayerEntry, part: LayerPart): void {
    const { index, layer } = entry;
    if (!('parts' in layer.does)) return;
    const own = LAYER_PARTS.filter((one) => this.hasPart(entry, one) !== (one === part));
    if (own.length > 0) this.store.does(index, { parts: own.length === LAYER_PARTS.length ? [] : own }, `parts of ${layer.name}`);
  }

  protected setShare({ index, layer }: LayerEntry, part: LayerPart, share: number): void {
    if (!('parts' in layer.does)) return;
    const shares = { ...layer.does.shares, [part]: share };
    this.store.does(index, { shares }, `share of ${PART_NAMES[part]}, ${layer.name}`, `share ${index} ${part}`);
  }

  protected nameOfEnd(end: HeldEnd): string {
    return end.replace('.', ' ');
  }

  /** A limb end that the layer moves itself cannot be held. */
  protected isMoved({ layer: { does } }: LayerEntry, end: HeldEnd): boolean {
    return does.kind === 'reach' && does.tracks.some((track) => track.end === end && track.keys.length > 0);
  }

  protected toggleHeld({ index, layer }: LayerEntry, end: HeldEnd): void {
    const held = HELD_ENDS.filter((one) => (layer.held ?? []).includes(one) !== (one === end));
    this.store.change(index, { held }, `held, ${layer.name}`);
  }

  protected rename({ index, layer }: LayerEntry, event: Event): void {
    const input = event.target as HTMLInputElement;
    const name = input.value.trim().slice(0, 80);
    if (name === '') input.value = layer.name;
    else this.store.change(index, { name }, `name a layer ${name}`);
  }

  protected way(does: Layer['does']): string {
    return 'way' in does ? does.way : '';
  }
}
