import { readNames, type NamePart } from './lexicon';

/** Roles by name, for a list of names that belong to one skeleton. */
function best(name: string, beside: readonly string[] = []): string {
  const [hint] = readNames([name, ...beside]);
  const [part] = Object.entries(hint.fit).sort((a, b) => b[1] - a[1])[0] ?? ['nothing'];
  return `${hint.side ?? 'no side'} ${hint.finger ?? part}`;
}

describe('the lexicon', () => {
  const cases: readonly (readonly [string, string])[] = [
    ['Hips', 'no side hips'],
    ['pelvis', 'no side hips'],
    ['LeftHip', 'left upperLeg'],
    ['RightUpLeg', 'right upperLeg'],
    ['LeftLeg', 'left lowerLeg'],
    ['Leg_Upper_Right', 'right upperLeg'],
    ['LeftFoot', 'left foot'],
    ['rightAnkle', 'right foot'],
    ['left_toe_base', 'left toes'],
    ['RightForeArm', 'right lowerArm'],
    ['LeftArm', 'left upperArm'],
    ['right_elbow', 'right lowerArm'],
    ['LeftWrist', 'left hand'],
    ['LeftHandIndex1', 'left index'],
    ['RightThumb2', 'right thumb'],
    ['left_pinky_02', 'left little'],
    ['rightRingFinger', 'right ring'],
    ['Spine2', 'no side spine'],
    ['lowerBack', 'no side spine'],
    ['upper_chest', 'no side spine'],
    ['Neck1', 'no side neck'],
    ['HEAD', 'no side head'],
    ['clavicle_left', 'left clavicle'],
    ['oberschenkel_links', 'left upperLeg'],
    ['linkerUnterarm', 'left lowerArm'],
    ['brazoIzquierdo', 'left upperArm'],
    ['cuisseGauche', 'left upperLeg'],
    ['avantBrasDroit', 'right lowerArm'],
    ['mano_destra', 'right hand'],
    ['root', 'no side ground'],
  ];
  for (const [name, says] of cases) {
    it(`reads ${name} as ${says}`, () => expect(best(name)).toBe(says));
  }

  it('takes a lone letter for a side only where both letters are used so', () => {
    expect(best('arm_l', ['arm_r'])).toBe('left upperArm');
    expect(best('arm_l')).toBe('no side upperArm');
    expect(best('LThumb', ['RThumb'])).toBe('left thumb');
    expect(best('thigh.L', ['thigh.R'])).toBe('left upperLeg');
  });

  it('tells twist joints and bone ends from the joints that they are named after', () => {
    const [twist, roll, end, nub] = readNames(['LeftForeArmTwist', 'upperarm_roll_l', 'HeadTop_End', 'Toe0Nub']);
    expect([twist.isTwist, roll.isTwist, end.isEnd, nub.isEnd]).toEqual([true, true, true, true]);
    expect([twist.isEnd, end.isTwist]).toEqual([false, false]);
  });

  it('does not take eyes, jaws or hair for the head, nor toes for fingers', () => {
    for (const name of ['LeftEye', 'jaw', 'hair_01', 'forehead', 'tongue'])
      expect(readNames([name])[0].fit.head)
        .withContext(name)
        .toBeUndefined();
    expect(readNames(['LeftToeIndex'])[0].finger).toBeUndefined();
    expect(readNames(['LeftFingerBase'])[0].fit.hand).toBeUndefined();
  });

  it('knows what a name cannot be', () => {
    const parts = (name: string): NamePart[] => Object.keys(readNames([name])[0].fit) as NamePart[];
    expect(parts('LeftUpperArm')).not.toContain('lowerArm');
    expect(parts('RightForeArm')).not.toContain('upperArm');
    expect(parts('LeftHip')).not.toContain('hips');
    expect(parts('lantern_prop')).toContain('prop');
    expect(parts('xyz')).toEqual([]);
  });

  it('numbers what is numbered', () => {
    expect(readNames(['Spine', 'Spine1', 'Spine_02']).map((h) => h.number)).toEqual([NaN, 1, 2]);
  });
});
