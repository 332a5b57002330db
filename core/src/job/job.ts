import type { Clip } from '../clip';
import { ClipReader, unsized } from '../clip';
import { editPlants, editRests, editTouches, findContacts, type Contacts } from '../contact';
import { fail, type Fault } from '../errors';
import { driveJoints, type FaceMotion } from '../face';
import type { FaceTrack, FaceWeights, MotionFile, OutputFormat } from '../formats';
import { makeOutput, writeOutput, type Output, type OutputMotion } from '../output';
import { judge, judgeFace, judgeJoints, type Case, type Figure, type Verdict } from '../judge';
import { makeJointPairing, makePairing, sharedProps, type Pairing } from '../match';
import { mend } from '../mend';
import type { ByJoint, Recipe, SkeletonChoices, TakeChoices } from '../recipe';
import { isBody, labelFile, looseRig, prepareRig, type Rig } from '../rig';
import { lookedAt, lookedAtJoints, type Looked } from '../sheet';
import { layTouchUps, NO_TOUCH_UPS, type LaidTouchUps } from '../touchup';
import { DEFAULT_SOLVE, solve, SolveMemory, type SolveSettings, type StageId, type Transfer } from '../solve';
import { ownTimeOf, prepareTake, type OwnTime } from '../take';
import { faceCaseOf, makeFace } from './face';
import { fitPairing, fitSkeleton } from './fit';
import { carryOver, jointCaseOf, layTake, NO_CONTACTS, type Carrying } from './joints';
import { checkLabels } from './labels';
import { Memory } from './memory';
import { lostSizes, lostSlides, lostStretch, lostTouches } from './lost';
import { reportOf, type Report } from './report';

/** The files of a transfer and every decision about it: all that its result depends on. */
export interface Job {
  readonly take: MotionFile;
  /** Which of the file's motions. */
  readonly clip: number;
  readonly character: MotionFile;
  readonly recipe: Recipe;
  /** The face recording that the recipe names, where the take's file does not hold it. */
  readonly face?: FaceTrack | undefined;
}

/** A job made ready: both skeletons, how they are paired, the take as it was set. */
export interface Ready {
  readonly job: Job;
  readonly performer: Rig;
  readonly character: Rig;
  readonly pairing: Pairing;
  readonly take: Clip;
  readonly contacts: Contacts;
  readonly touchUps: LaidTouchUps;
  /** Of a pairing joint by joint: what is carried over, and into what. */
  readonly carrying?: Carrying;
  /** What the face recording drives, where there is one. */
  readonly face?: FaceMotion | undefined;
  /** How frames lie in the take's own time; of a take that is laid into a motion, in that motion's. */
  readonly own: OwnTime;
  /** The take's own second of a frame. */
  readonly timeOf: (frame: number) => number;
  readonly settings: SolveSettings;
  /** Cautions: parts of the recipe that did not fit, doubtful labels, and anything else odd on the way. */
  readonly cautions: readonly Fault[];
}

/** Enough for the pairs that a person goes to and fro between. */
const MOST_KEPT = 4;

/** Earlier results of jobs. */
export class JobMemory extends Memory {
  readonly solve = new SolveMemory();
  readonly plain = new SolveMemory();

  /** @param most how many results of a kind are kept */
  constructor(most = MOST_KEPT) {
    super(most);
  }
}

/**
 * Makes a job ready.
 * @throws FaultError when a file cannot be labelled whole, when labels would break the body, when the take's range is empty
 */
export function prepare(job: Job, memory = new JobMemory()): Ready {
  const { recipe } = job;
  if (recipe.pairing.byJoint) return prepareByJoint(job, recipe.pairing.byJoint, memory);
  const { plants, touches, rests = [], detection } = recipe.take;
  const setting = motionOf(recipe.take);
  const performer = memory.of('performer', [job.take, job.clip, recipe.performer], () => makeRig(job.take, job.clip, recipe.performer));
  const character = memory.of('character', [job.character, recipe.character], () => makeRig(job.character, 0, recipe.character));
  const paired = memory.of('pairing', [performer.rig, character.rig, recipe.pairing], () => {
    const { choices, dropped } = fitPairing(recipe.pairing, performer.rig, character.rig);
    const notes = dropped.map((message): Fault => ({ code: 'option', message, where: { file: job.character.name } }));
    return { pairing: makePairing(performer.rig, character.rig, choices), notes };
  });
  // The performer's own body comes back as it was recorded.
  const isOwn = paired.pairing.same.same;
  const prepared = memory.of('take', [job.take, job.clip, performer.rig, setting, recipe.solve.fps, isOwn], () => {
    const fps = recipe.solve.fps ?? recipe.take.fps;
    // Bodies do not grow: what a take says of it is carried joint by joint alone.
    return unsized(prepareTake(job.take, performer.rig, job.clip, { ...recipe.take, fps }, { inTime: !isOwn }));
  });
  const own = ownTimeOf(job.take, job.clip, recipe.take);
  const found = memory.of('contacts', [performer.rig, prepared, detection], () => findContacts(performer.rig, prepared, detection));
  const frameAt = (seconds: number): number => ((seconds - own.start) * own.pace) / prepared.frameTime;
  const contacts = memory.of('plants', [found, plants, touches, rests, own, prepared], () => {
    const { frames } = prepared;
    return editRests(editTouches(editPlants(found, plants, frameAt, frames), touches, frameAt, frames), rests, frameAt, frames);
  });
  const time = { frames: prepared.frames, of: (frame: number): number => own.start + (frame * prepared.frameTime) / own.pace };
  const touchUps = layTouchUps(paired.pairing, recipe.touchUps, time, (part, from, make) =>
    memory.of(`touch-ups ${part}`, [paired.pairing, prepared, own, ...from], make),
  );
  const face = makeFace(job, character.rig, prepared, own, (from, make) => memory.of('face', from, make));
  return {
    job,
    performer: performer.rig,
    character: character.rig,
    pairing: paired.pairing,
    take: prepared,
    contacts,
    touchUps,
    face: face.motion,
    own,
    timeOf: time.of,
    settings: settingsOf(recipe.solve),
    cautions: [
      ...performer.cautions,
      ...character.cautions,
      ...paired.notes,
      ...paired.pairing.warnings,
      ...lostSlides(job, performer.rig, paired.pairing),
      ...lostStretch(job, character.rig),
      ...lostTouches(job, contacts),
      ...lostSizes(job, performer.rig),
      ...face.cautions,
    ],
  };
}

/** A job whose pairing goes joint by joint: neither side has to be a body. */
function prepareByJoint(job: Job, settings: ByJoint, memory: JobMemory): Ready {
  const { recipe } = job;
  const rigOf = (file: MotionFile, clip: number, choices: SkeletonChoices) =>
    memory.of('any rig', [file, clip, choices], () => {
      const isWhole = labelFile(file, clip, choices).missing.length === 0;
      return isWhole ? makeRig(file, clip, choices) : { rig: looseRig(file, choices), cautions: [] };
    });
  const performer = rigOf(job.take, job.clip, recipe.performer);
  const character = rigOf(job.character, 0, recipe.character);
  const pairing = memory.of('joint pairing', [performer.rig, character.rig, settings], () =>
    makeJointPairing(performer.rig, character.rig, settings),
  );
  const setting = motionOf(recipe.take);
  const prepared = memory.of('take', [job.take, job.clip, performer.rig, setting, recipe.solve.fps], () =>
    prepareTake(job.take, performer.rig, job.clip, { ...recipe.take, fps: recipe.solve.fps ?? recipe.take.fps }),
  );
  const { carrying, held } = memory.of('laid take', [prepared, job.character, character.rig, settings.into], () =>
    layTake(job.character, character.rig, settings, prepared),
  );
  const own = carrying.into ? { start: 0, pace: 1 } : ownTimeOf(job.take, job.clip, recipe.take);
  const timeOf = (frame: number): number => own.start + (frame * held.frameTime) / own.pace;
  const face = makeFace(job, character.rig, held, own, (from, make) => memory.of('face', from, make));
  // What rests is held under layers, where the take is of a body and plays alone.
  const holds = isBody(performer.rig) && isBody(character.rig) && !carrying.into;
  return {
    job,
    performer: performer.rig,
    character: character.rig,
    pairing,
    take: held,
    contacts: holds ? memory.of('contacts', [performer.rig, held], () => findContacts(performer.rig, held)) : NO_CONTACTS,
    touchUps: NO_TOUCH_UPS,
    carrying,
    face: face.motion,
    own,
    timeOf,
    settings: settingsOf(recipe.solve),
    cautions: [...performer.cautions, ...character.cautions, ...performer.rig.warnings, ...pairing.warnings, ...face.cautions].filter(
      (fault, i, all) => all.indexOf(fault) === i,
    ),
  };
}

/** The decisions about a take that change its motion: those about contacts, its face and its sound do not. */
function motionOf({
  from,
  to,
  floor,
  clean,
  rate,
  fps,
  reversed,
}: TakeChoices): Pick<TakeChoices, 'from' | 'to' | 'floor' | 'clean' | 'rate' | 'fps' | 'reversed'> {
  return { from, to, floor, clean, rate, fps, reversed };
}

/** The decisions that the solve itself reads. */
function settingsOf({ fps: _, ...settings }: Recipe['solve']): SolveSettings {
  return { ...DEFAULT_SOLVE, ...settings };
}

function makeRig(file: MotionFile, clip: number, wanted: SkeletonChoices): { rig: Rig; cautions: Fault[] } {
  const choices = fitSkeleton(file, wanted);
  const notes: Fault[] =
    choices === wanted
      ? []
      : [
          {
            code: 'label/unknown-joint',
            message: 'the recipe labels joints that are not here; it is labelled automatically',
            where: { file: file.name },
          },
        ];
  const labels = labelFile(file, clip, choices);
  const doubts = checkLabels(file, labels, clip);
  const rig = prepareRig(file, clip, choices, labels);
  return { rig, cautions: [...notes, ...rig.warnings, ...doubts] };
}

/** Solves a job that is ready and lays its layers over it. @param onStage called as each stage has run */
export function solveReady(ready: Ready, memory?: JobMemory, onStage?: (stage: StageId) => void): Transfer {
  return mendReady(ready, solveBelow(ready, memory, onStage), memory);
}

/** The transfer with the job's layers over it, and the face's joints turned. @param below the same as it was solved */
export function mendReady({ job, character, contacts, own, timeOf, face, carrying }: Ready, below: Transfer, memory?: JobMemory): Transfer {
  const { layers } = job.recipe;
  // Joint by joint no floor is looked for, and one that slopes is not known under every foot.
  const floor = carrying || below.contacts.ground ? undefined : below.floor;
  const keep = (name: string, from: readonly unknown[], make: () => Clip): Clip => (memory ? memory.of(name, from, make) : make());
  const mended =
    layers.length === 0
      ? below.clip
      : keep('mend', [below.clip, contacts, layers, own, floor], () =>
          mend({ rig: character, clip: below.clip, contacts, timeOf, floor }, layers),
        );
  const clip =
    face && face.table.joints.length > 0
      ? keep('face joints', [mended, face.track, face.table.joints, face.table.exchange, face.time], () =>
          driveJoints(character, mended, face),
        )
      : mended;
  return clip === below.clip ? below : { ...below, clip };
}

/** Solves a job that is ready, without its layers. */
export function solveBelow(ready: Ready, memory?: JobMemory, onStage?: (stage: StageId) => void): Transfer {
  if (ready.carrying) return transferByJoint(ready, ready.carrying, memory);
  return solve(ready.pairing, ready.take, ready.settings, {
    contacts: ready.contacts,
    touchUps: ready.touchUps,
    memory: memory?.solve,
    onStage,
  });
}

/** The same take by pose and root only: what holding feet is measured against. */
export function solvePlain(ready: Ready, memory?: JobMemory): Transfer {
  // Joint by joint nothing is held: the transfer is the plain one.
  if (ready.carrying) return solveBelow(ready, memory);
  const { pairing, take, contacts, touchUps } = ready;
  return solve(pairing, take, { ...ready.settings, plain: true }, { contacts, touchUps, memory: memory?.plain });
}

function transferByJoint({ pairing, settings, take, contacts }: Ready, carrying: Carrying, memory?: JobMemory): Transfer {
  const { joints } = pairing;
  const make = (): Clip => carryOver({ ...pairing, joints: joints! }, carrying);
  const clip = memory ? memory.of('carried', [pairing, carrying.take, joints!.settings.into], make) : make();
  return { pairing, settings, take, clip, contacts, floor: 0, heading: undefined, misses: [] };
}

/** The judge's verdict on a transfer of this job. @param weights of the face's shapes as they are delivered; null where the file holds none */
export function judgeTransfer(
  { job, carrying, character, face }: Pick<Ready, 'job' | 'carrying' | 'character' | 'face'>,
  transfer: Transfer,
  weights: FaceWeights | null = face?.weights ?? null,
): Verdict {
  const body = carrying ? judgeJoints(jointCaseOf(transfer, carrying)) : judge(caseOf(transfer, job.character.skin));
  if (!face) return body;
  const ofFace = judgeFace(faceCaseOf(face, character, transfer.clip, weights ?? undefined, deliveryOf(job.recipe).loop));
  return { ...body, figures: [...body.figures, ...ofFace] };
}

/** Series over a transfer, and pictures of its worst frames, as a check sheet shows them. @param samples most of each series */
export function lookedAtTransfer(
  { job, carrying }: Pick<Ready, 'job' | 'carrying'>,
  transfer: Transfer,
  figures: readonly Figure[],
  samples?: number,
): Looked {
  if (carrying) return lookedAtJoints(jointCaseOf(transfer, carrying), figures, samples);
  return lookedAt(caseOf(transfer, job.character.skin), figures, samples);
}

/** A transfer as the judge looks at it. */
export function caseOf({ pairing, take, clip, floor, contacts, settings, heading }: Transfer, skin: MotionFile['skin']): Case {
  const { performer, character, scale } = pairing;
  const raised = floor - contacts.floor * scale.lift;
  return {
    performer,
    take,
    character,
    result: clip,
    skin,
    scale,
    raised,
    ...(contacts.ground && { slope: { x: contacts.ground.x, z: contacts.ground.z } }),
    inPlace: settings.inPlace,
    stretch: settings.stretch,
    props: sharedProps(pairing).map(({ role, joint, source }) => ({ name: role.split('.')[1], mine: joint, theirs: source })),
    ...(heading && { heading }),
  };
}

/** All that a person should know before using a transfer, the figures apart. */
export function cautionsOf({ cautions }: Ready, { misses, take, pairing }: Transfer): Fault[] {
  return [
    ...cautions,
    ...misses.map(({ limb, distance, frame, kind }): Fault => ({
      code: 'solve/reach',
      message:
        kind === 'moved'
          ? `the ${limb} stands ${(distance * 1000).toFixed(0)} mm from where the take puts it, which is out of its reach; match the stride to the legs`
          : `the ${limb} stays ${(distance * 1000).toFixed(1)} mm short of its place, which is out of its reach`,
      where: { file: pairing.performer.name, frame: Math.min(frame, take.frames - 1) + 1 },
    })),
  ];
}

/** A motion that is there already, as the job's own would be: on its floor, slope and way, with its props. */
export function transferOfResult({ pairing, take, contacts, settings, touchUps, carrying }: Ready, clip: Clip): Transfer {
  const floor = carrying || settings.floor === 'zero' ? 0 : contacts.floor * pairing.scale.lift;
  return { pairing, settings, take, clip, contacts, floor, heading: touchUps.steer?.heading, misses: [] };
}

/** The format that a job is delivered in: as decided, else the character's own. @throws FaultError option */
export function formatOf({ character, recipe }: Job): OutputFormat {
  const own: OutputFormat = character.layout.format === 'glb' ? 'glb' : 'bvh';
  const format = recipe.delivery.format ?? own;
  if (format === 'glb' && own !== 'glb') {
    fail('option', 'a character that came as BVH has no GLB file to add the motion to; write .bvh', { file: character.name });
  }
  return format;
}

/** Decisions about the delivered file: a take that loops is delivered so, unless the delivery says how. */
function deliveryOf({ delivery, take }: Recipe): Recipe['delivery'] {
  return delivery.loop > 0 || !take.loop ? delivery : { ...delivery, loop: take.loop };
}

/** The transfer as it goes into its file. @throws FaultError option */
export function outputOf({ job, character, face }: Pick<Ready, 'job' | 'character' | 'face'>, { clip }: Transfer): OutputMotion {
  return makeOutput(job.character, character, clip, formatOf(job), deliveryOf(job.recipe), { face: face?.weights });
}

/** The bytes of the delivered file. @throws FaultError option, clip/not-finite */
export function deliver(ready: Pick<Ready, 'job' | 'character' | 'face'>, transfer: Transfer): Uint8Array<ArrayBuffer> {
  return writeOutput(outputOf(ready, transfer)).bytes;
}

/** What comes of a job before it is written. */
export interface Solved {
  readonly ready: Ready;
  readonly transfer: Transfer;
  /** Of the motion that the file will hold, beside that of the plain transfer. */
  readonly report: Report;
  readonly output: OutputMotion;
}

/** Everything that comes of a job. */
export interface Outcome extends Solved {
  readonly output: Output;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

/**
 * Files and decisions in; plan, clip, figures and report out, and a file that is yet to be written.
 * @param memory of skeletons, pairings and takes made ready; not of stages
 */
export function solveJob(job: Job, memory = new JobMemory()): Solved {
  const ready = prepare(job, memory);
  // A whole job is solved once, and the plain transfer is judged and let go: what stages made would only fill the memory.
  const plain = ready.settings.plain || ready.carrying ? undefined : judgeTransfer(ready, solvePlain(ready));
  const transfer = solveReady(ready);
  const output = outputOf(ready, transfer);
  const verdict = judgeTransfer(ready, { ...transfer, clip: output.clip }, output.face ?? null);
  const report = reportOf(transfer, verdict, plain, cautionsOf(ready, transfer), undefined);
  return { ready, transfer, report, output };
}

/**
 * As `solveJob`, with the bytes of the delivered file. The command line, the server, the page, the bench and the demo all call this,
 * or the steps that it is made of.
 */
export function runJob(job: Job, memory?: JobMemory): Outcome {
  const solved = solveJob(job, memory);
  const output = writeOutput(solved.output);
  return { ...solved, output, bytes: output.bytes };
}

/**
 * Poses every frame of a motion by forward kinematics and does nothing with it: what the cost of a solve is measured against.
 */
export function plainPass({ pairing, clip }: Pick<Transfer, 'pairing' | 'clip'>): void {
  const reader = new ClipReader(pairing.character.skeleton, clip);
  for (let f = 0; f < clip.frames; f++) reader.at(f);
}
