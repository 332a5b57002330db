import {
  asFault,
  ClipReader,
  copyPose,
  DEFAULT_RECIPE,
  decisionsOf,
  LiveTransfer,
  pairingOf,
  readFrame,
  type MotionFile,
  type Skeleton,
  type TransferredFrame,
} from '@hollow-stride/core';
import { displayBody } from '../../../solver/display';
import { choicesOf, fileOf } from '../../../solver/jobs';
import type { LiveAsk, LiveRequest, LiveTold } from './messages';

interface Begun {
  readonly transfer: LiveTransfer;
  readonly request: LiveRequest;
  readonly file: MotionFile;
}

/** What a live transfer does in its worker. Frames that come while others are solved are solved together. */
export class LiveHost {
  private begun: Begun | undefined;
  /** Frames that came while the character was read. */
  private waiting: Uint8Array[] = [];
  private isDue = false;
  private isTold = false;
  private isOver = false;

  /** @param soon calls back when all messages that have come are taken in */
  constructor(
    private readonly tell: (told: LiveTold) => void,
    private readonly soon: (then: () => void) => void,
  ) {}

  take(ask: LiveAsk): void {
    if (ask.kind === 'begin') void this.begin(ask.request).catch((error: unknown) => this.failed(error));
    else if (!this.begun) this.waiting.push(ask.bytes);
    else this.frame(this.begun, ask.bytes);
  }

  private async begin(request: LiveRequest): Promise<void> {
    const { opening, character, choices, performer } = request;
    const [file, target] = await Promise.all([fileOf(character), choicesOf(character)]);
    const recipe = { ...DEFAULT_RECIPE, performer, character: target, pairing: pairingOf(choices), solve: decisionsOf(choices) };
    this.begun = { transfer: new LiveTransfer(opening, file, recipe), request, file };
    for (const bytes of this.waiting) this.frame(this.begun, bytes);
    this.waiting = [];
  }

  private frame({ transfer, request }: Begun, bytes: Uint8Array): void {
    if (this.isOver) return;
    try {
      transfer.push(readFrame(bytes, request.opening.joints.length));
    } catch (error) {
      this.failed(error);
      return;
    }
    if (this.isDue) return;
    this.isDue = true;
    this.soon(() => {
      this.isDue = false;
      try {
        this.solve();
      } catch (error) {
        this.failed(error);
      }
    });
  }

  private solve(): void {
    if (!this.begun || this.isOver) return;
    const { transfer, request, file } = this.begun;
    const { pairing, learned } = transfer;
    if (!pairing) {
      this.tell({ kind: 'learning', share: learned });
      return;
    }
    if (!this.isTold) this.tell({ kind: 'begun', display: displayBody(pairing.character, file, request.character.file) });
    this.isTold = true;
    const start = performance.now();
    const frames = transfer.solve();
    const work = performance.now() - start;
    const last = frames.at(-1);
    if (!last) return;
    this.tell({
      kind: 'frames',
      numbers: frames.map(({ number }) => number),
      ...poseOf(pairing.character.skeleton, last),
      work,
      lost: transfer.lost.frames,
    });
  }

  private failed(error: unknown): void {
    this.isOver = true;
    this.tell({ kind: 'failed', fault: asFault(error) });
  }
}

function poseOf(skeleton: Skeleton, { rotations, moves }: TransferredFrame): { positions: Float64Array; rotations: Float64Array } {
  const clip = { name: '', frameTime: 1, frames: 1, rotations, moves: moves.map(({ joint, place }) => ({ joint, values: place })) };
  return copyPose(new ClipReader(skeleton, clip).at(0));
}
