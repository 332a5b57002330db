const bothSides = (names: readonly string[]): string[] => names.flatMap((name) => [`${name}Left`, `${name}Right`]);

/** The 52 channels that many face recorders write. */
export const RECORDED_CHANNELS: readonly string[] = [
  ...bothSides(['eyeBlink', 'eyeLookDown', 'eyeLookIn', 'eyeLookOut', 'eyeLookUp', 'eyeSquint', 'eyeWide']),
  'jawForward',
  'jawLeft',
  'jawRight',
  'jawOpen',
  'mouthClose',
  'mouthFunnel',
  'mouthPucker',
  'mouthLeft',
  'mouthRight',
  ...bothSides(['mouthSmile', 'mouthFrown', 'mouthDimple', 'mouthStretch']),
  'mouthRollLower',
  'mouthRollUpper',
  'mouthShrugLower',
  'mouthShrugUpper',
  ...bothSides(['mouthPress', 'mouthLowerDown', 'mouthUpperUp']),
  ...bothSides(['browDown']),
  'browInnerUp',
  ...bothSides(['browOuterUp']),
  'cheekPuff',
  ...bothSides(['cheekSquint', 'noseSneer']),
  'tongueOut',
];
