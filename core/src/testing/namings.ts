/** Ways in which people and programs name the joints of a body; all made up of the trade's and the languages' own words. */

export interface Naming {
  readonly title: string;
  name(role: string): string;
}

type Words = Readonly<Record<string, string>>;

const ENGLISH: Words = {
  ground: 'root',
  hips: 'hips',
  spine: 'spine',
  neck: 'neck',
  head: 'head',
  clavicle: 'clavicle',
  upperArm: 'upperarm',
  lowerArm: 'forearm',
  hand: 'hand',
  upperLeg: 'thigh',
  lowerLeg: 'shin',
  foot: 'foot',
  toes: 'toe',
  thumb: 'thumb',
  index: 'index',
  middle: 'middle',
  ring: 'ring',
  little: 'pinky',
  end: 'end',
  palm: 'palm',
  hipHelper: 'hipjoint',
};
const ANATOMY: Words = {
  ...ENGLISH,
  hips: 'pelvis',
  spine: 'lumbar',
  head: 'skull',
  clavicle: 'scapula',
  upperArm: 'humerus',
  lowerArm: 'radius',
  hand: 'wrist',
  upperLeg: 'femur',
  lowerLeg: 'tibia',
  foot: 'ankle',
  toes: 'ball',
};
const JOINTS: Words = {
  ...ENGLISH,
  spine: 'chest',
  clavicle: 'collar',
  upperArm: 'shoulder',
  lowerArm: 'elbow',
  hand: 'wrist',
  upperLeg: 'hip',
  lowerLeg: 'knee',
  foot: 'ankle',
};
const GENERIC: Words = { ...ENGLISH, clavicle: 'shoulder', upperArm: 'arm', upperLeg: 'upleg', lowerLeg: 'leg', toes: 'toebase' };
const GERMAN: Words = {
  ...ENGLISH,
  ground: 'boden',
  hips: 'becken',
  spine: 'wirbel',
  neck: 'hals',
  head: 'kopf',
  clavicle: 'schluesselbein',
  upperArm: 'oberarm',
  lowerArm: 'unterarm',
  hand: 'hand',
  upperLeg: 'oberschenkel',
  lowerLeg: 'unterschenkel',
  foot: 'fuss',
  toes: 'zehen',
  thumb: 'daumen',
  index: 'zeigefinger',
  middle: 'mittelfinger',
  ring: 'ringfinger',
  little: 'kleinerfinger',
  end: 'ende',
};
const FRENCH: Words = {
  ...ENGLISH,
  ground: 'racine',
  hips: 'bassin',
  spine: 'colonne',
  neck: 'cou',
  head: 'tete',
  clavicle: 'clavicule',
  upperArm: 'brasSup',
  lowerArm: 'avantBras',
  hand: 'main',
  upperLeg: 'cuisse',
  lowerLeg: 'tibia',
  foot: 'pied',
  toes: 'orteils',
  thumb: 'pouce',
  index: 'index',
  middle: 'majeur',
  ring: 'annulaire',
  little: 'auriculaire',
  end: 'fin',
};
const SPANISH: Words = {
  ...ENGLISH,
  ground: 'raiz',
  hips: 'cadera',
  spine: 'columna',
  neck: 'cuello',
  head: 'cabeza',
  clavicle: 'clavicula',
  upperArm: 'brazo',
  lowerArm: 'antebrazo',
  hand: 'mano',
  upperLeg: 'muslo',
  lowerLeg: 'pantorrilla',
  foot: 'pie',
  toes: 'dedosPie',
  thumb: 'pulgar',
  index: 'indice',
  middle: 'medio',
  ring: 'anular',
  little: 'menique',
};

const ITALIAN: Words = {
  ...ENGLISH,
  ground: 'radice',
  hips: 'bacino',
  spine: 'colonna',
  neck: 'collo',
  head: 'testa',
  clavicle: 'clavicola',
  upperArm: 'braccio',
  lowerArm: 'avambraccio',
  hand: 'mano',
  upperLeg: 'coscia',
  lowerLeg: 'stinco',
  foot: 'piede',
  toes: 'dita',
  thumb: 'pollice',
  index: 'indice',
  middle: 'medio',
  ring: 'anulare',
  little: 'mignolo',
};
const PORTUGUESE: Words = {
  ...SPANISH,
  hips: 'quadril',
  spine: 'coluna',
  neck: 'pescoco',
  head: 'cabeca',
  upperArm: 'braco',
  lowerArm: 'antebraco',
  hand: 'mao',
  upperLeg: 'coxa',
  lowerLeg: 'canela',
  foot: 'pe',
  toes: 'dedosPe',
  thumb: 'polegar',
  little: 'minimo',
};
const DUTCH: Words = {
  ...ENGLISH,
  ground: 'grond',
  hips: 'bekken',
  spine: 'ruggengraat',
  neck: 'nek',
  head: 'hoofd',
  clavicle: 'sleutelbeen',
  upperArm: 'bovenarm',
  lowerArm: 'onderarm',
  hand: 'hand',
  upperLeg: 'bovenbeen',
  lowerLeg: 'onderbeen',
  foot: 'voet',
  toes: 'tenen',
  thumb: 'duim',
  index: 'wijsvinger',
  middle: 'middelvinger',
  ring: 'ringvinger',
  little: 'pink',
};
const SHORT: Words = {
  ...ENGLISH,
  hips: 'hip',
  spine: 'spn',
  neck: 'nck',
  head: 'hd',
  clavicle: 'clav',
  upperArm: 'uparm',
  lowerArm: 'loarm',
  hand: 'hnd',
  upperLeg: 'upleg',
  lowerLeg: 'loleg',
  foot: 'ft',
  thumb: 'thm',
  index: 'idx',
  middle: 'mid',
  ring: 'rng',
  little: 'pnk',
};

const cap = (word: string): string => word.charAt(0).toUpperCase() + word.slice(1);

function parse(role: string): { side: 'left' | 'right' | ''; parts: string[]; number: string } {
  const words = role.split('.');
  const side = words[0] === 'left' || words[0] === 'right' ? words.shift()! : '';
  const number = /^\d+$/.test(words[words.length - 1]) ? words.pop()! : '';
  return { side: side as 'left' | 'right' | '', parts: words, number };
}

function naming(title: string, words: Words, join: (stem: string, side: 'left' | 'right' | '', number: string) => string): Naming {
  return {
    title,
    name: (role) => {
      const { side, parts, number } = parse(role);
      const stem = parts.map((part, i) => (i === 0 ? (words[part] ?? part) : cap(words[part] ?? part))).join('');
      return join(stem, side, number);
    },
  };
}

export const NAMINGS: readonly Naming[] = [
  naming('side first, words joined', ENGLISH, (s, side, n) => `${side ? cap(side) : ''}${cap(s)}${n}`),
  naming('side last, underscores', ENGLISH, (s, side, n) => `${s}${n && `_${n.padStart(2, '0')}`}${side && `_${side[0].toUpperCase()}`}`),
  naming('side letter first', ENGLISH, (s, side, n) => `${side && `${side[0]}_`}${s}${n && `_${n}`}`),
  naming(
    'dotted side, numbers from 0',
    ENGLISH,
    (s, side, n) => `${s}${n && `.${String(Number(n) - 1).padStart(3, '0')}`}${side && `.${side[0].toUpperCase()}`}`,
  ),
  naming('letter glued to the word', GENERIC, (s, side, n) => `${side && side[0].toUpperCase()}${cap(s)}${n}`),
  naming('generic words, prefix with colon', GENERIC, (s, side, n) => `puppet:${side && cap(side)}${cap(s)}${n}`),
  naming('joint words', JOINTS, (s, side, n) => `${side && cap(side)}${cap(s)}${n}`),
  naming('joint words, short sides', JOINTS, (s, side, n) => `${s}${n}${side && (side === 'left' ? '_lf' : '_rt')}`),
  naming('anatomy', ANATOMY, (s, side, n) => `${s}${n && `_${n}`}${side && `_${side[0]}`}`),
  naming('capitals, prefix with underscore', ENGLISH, (s, side, n) => `BELL_${side && `${side[0].toUpperCase()}_`}${s.toUpperCase()}${n}`),
  naming('spaces', ENGLISH, (s, side, n) => `Puppet ${side && `${side[0].toUpperCase()} `}${cap(s)}${n}`),
  naming('German', GERMAN, (s, side, n) => `${s}${n}${side && (side === 'left' ? '_links' : '_rechts')}`),
  naming('French', FRENCH, (s, side, n) => `${s}${n}${side && (side === 'left' ? 'Gauche' : 'Droite')}`),
  naming('Spanish', SPANISH, (s, side, n) => `${s}${n}${side && (side === 'left' ? '_izq' : '_der')}`),
  naming('Italian', ITALIAN, (s, side, n) => `${s}${n && `_${n}`}${side && (side === 'left' ? '_sx' : '_dx')}`),
  naming('Portuguese', PORTUGUESE, (s, side, n) => `${s}${n}${side && (side === 'left' ? '_esquerda' : '_direita')}`),
  naming('Dutch', DUTCH, (s, side, n) => `${side && (side === 'left' ? 'linker' : 'rechter')}${side ? cap(s) : s}${n}`),
  naming('abbreviations', SHORT, (s, side, n) => `${side && `${side[0]}_`}${s}${n && n.padStart(2, '0')}`),
  naming('abbreviations, prefix, side last', SHORT, (s, side, n) => `qp_${s}${n && `_${n}`}${side && `_${side[0].toUpperCase()}`}`),
  naming('side as a whole word at the end', ENGLISH, (s, side, n) => `${s}${n && ` ${n}`}${side && ` ${side}`}`),
  naming('words by dashes, side last', ENGLISH, (s, side, n) => `${s}${n && `-${n}`}${side && `-${side}`}`),
  naming('number before the side', GENERIC, (s, side, n) => `${s}${n && `_${String(Number(n) - 1)}`}${side && `_${side}`}`),
  naming('short sides first, anatomy', ANATOMY, (s, side, n) => `${side && (side === 'left' ? 'lf_' : 'rt_')}${s}${n && `_${n}`}`),
  naming('namespace of two parts', JOINTS, (s, side, n) => `stage:hero:${side && cap(side)}${cap(s)}${n}`),
  naming('ending on every name', ENGLISH, (s, side, n) => `${s}${n && `_${n}`}${side && `_${side[0]}`}_jnt`),
  naming('shouting', GENERIC, (s, side, n) => `${side && `${side.toUpperCase()}_`}${s.toUpperCase()}${n && `_${n}`}`),
];

/** Names that say nothing. */
export const NAMELESS: Naming = {
  title: 'no names',
  name: (role) => `b${[...role].reduce((h, c) => (h * 31 + c.charCodeAt(0)) % 9973, 7)}`,
};
