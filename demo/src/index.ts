import { performerRig, writeTake } from './performer';
import { ferryman } from './puppets/ferryman';
import { heron } from './puppets/heron';
import { quayWalk } from './takes/quayWalk';
import { slowBow } from './takes/slowBow';

export interface DemoFile {
  readonly name: string;
  readonly kind: 'take' | 'character';
  readonly title: string;
  readonly note: string;
  readonly bytes: Uint8Array;
}

/** The demo production, *The Drowned Bell*: the same bytes each time. */
export async function makeDemo(): Promise<DemoFile[]> {
  const { skeleton } = performerRig();
  return [
    {
      name: 'quay-walk.bvh',
      kind: 'take',
      title: 'Quay walk',
      note: 'heel and ball phases; rest pose in the first frames',
      bytes: writeTake(skeleton, quayWalk().clip('quay walk')),
    },
    {
      name: 'slow-bow.bvh',
      kind: 'take',
      title: 'Slow bow',
      note: 'spine bend over still feet; floor 2 cm off',
      bytes: writeTake(skeleton, slowBow().clip('slow bow')),
    },
    { name: 'ferryman.glb', kind: 'character', title: 'Ferryman', note: 'stocky: short legs, long arms; A-pose', bytes: await ferryman() },
    { name: 'heron.glb', kind: 'character', title: 'Heron', note: 'on stilts: legs half as long again; T-pose', bytes: await heron() },
  ];
}
