import { bareName, commonPrefix } from '../skeleton';
import type { Finger, Side } from './roles';

/** What a joint's name says, before any look at the skeleton's shape. */
export interface NameHints {
  /** The name without prefix, side and numbers, lower case, letters only. */
  readonly stem: string;
  readonly side: Side | undefined;
  /** Last number in the name, NaN when there is none. */
  readonly number: number;
  readonly isTwist: boolean;
  /** The end of a bone rather than a joint: a tip, a nub, an end site. */
  readonly isEnd: boolean;
  readonly finger: Finger | undefined;
  /** How well the name fits each part, 0…1; parts not listed fit 0. */
  readonly fit: Readonly<Partial<Record<NamePart, number>>>;
}

export type NamePart =
  | 'ground'
  | 'hips'
  | 'spine'
  | 'neck'
  | 'head'
  | 'clavicle'
  | 'upperArm'
  | 'lowerArm'
  | 'hand'
  | 'upperLeg'
  | 'lowerLeg'
  | 'hock'
  | 'foot'
  | 'toes'
  | 'prop';

/** Words for body parts in several languages. A word may fit more than one part; the chain decides between them. */
const WORDS: readonly (readonly [RegExp, Partial<Record<NamePart, number>>])[] = [
  [
    /^(root|ground|reference|world|origin|trajectory|motion|master|wurzel|boden|racine|raiz|radice|grond|armature|scene|scale)/,
    { ground: 1 },
  ],
  [
    /pelvis|^hips|^hip$|becken|bekken|quadril|bassin|bacino|huefte?n?$|hüfte?n?$|caderas?$|hanches?$|anche$|koshi|cog$|^cent(er|re)ofmass/,
    { hips: 1 },
  ],
  [
    /spine|spinal|backbone|vertebra|wirbel|colonne|columna|espalda|schiena|spina|sebone|lumbar|lendow|^lowback|lowerback|^back|ruecken|rücken|^dos|coluna|ruggengraat|^rug$|^spn$/,
    { spine: 1 },
  ],
  [
    /abdomen|^ab$|^abs$|belly|waist|torso|chest|thorax|ribs?$|ribcage|brust|poitrine|buste|pecho|petto|torse|mune|bauch|ventre|trunk|rumpf|sternum|body|stomach|taille|upperbody/,
    { spine: 0.8 },
  ],
  [/neck|hals|nacken|^cou$|cuello|collo|kubi|cervic|nuque|pesco[cç]o|^nek$|^nck$/, { neck: 1 }],
  [/head|kopf|t[eê]te$|cabeza|testa$|atama|skull|cranium|schaedel|hoofd|cabe[cç]a|^hd$/, { head: 1 }],
  [/clav|collar|sleutelbeen|schluessel|schlüssel|scapula|claviula|clavicola|sakotsu|shoulderblade|innershoulder/, { clavicle: 1 }],
  [/shoulder|shldr|schulter|[eé]paule|hombro|spalla|kata$/, { clavicle: 0.6, upperArm: 0.55 }],
  [/upperarm|uparm|bovenarm|armupper|armup|humer|oberarm|brasup|hautbras|brazosup|bracciosup|arriba|shldrbend|jouwan/, { upperArm: 1 }],
  [/forearm|lowerarm|onderarm|loarm|lowarm|armlower|armlow|unterarm|avantbras|antebra|radius|avambraccio|zenwan/, { lowerArm: 1 }],
  [/elbow|ell?enbogen|ellbogen|coude|codo|gomito|hiji/, { lowerArm: 0.9 }],
  [/wrist|handgelenk|poignet|mu[nñ]eca|polso|tekubi/, { hand: 0.8 }],
  [/hand|^main|^mano|^m[aã]o$|^hnd$/, { hand: 0.95 }],
  [/palm/, { hand: 0.6 }],
  [/^arm|arm$|^bras|brazo|braccio|^bra[cç]o|^ude/, { upperArm: 0.6, lowerArm: 0.3 }],
  [/thigh|upleg|bovenbeen|^coxa|upperleg|legupper|legup|femur|oberschenkel|cuisse|muslo|coscia|momo|hautjambe/, { upperLeg: 1 }],
  [/^hip|hip$|hipjoint|huefte|hüfte|hanche|cadera|^anca/, { upperLeg: 0.6 }],
  [/knee|knie|genou|rodilla|ginocchio|hiza/, { lowerLeg: 0.95 }],
  [
    /calf|shin|onderbeen|^canela|lowerleg|loleg|lowleg|leglower|leglow|tibia|unterschenkel|mollet|pantorrilla|stinco|sune|crus/,
    { lowerLeg: 1 },
  ],
  [/^leg|leg$|bein|jambe|pierna|gamba/, { lowerLeg: 0.6, upperLeg: 0.5 }],
  [/hock|metatars|sprunggelenk|fesel|cannon/, { hock: 1 }],
  [/ankle|kn[oö]e?chel|cheville|tobillo|caviglia|ashikubi/, { foot: 0.9 }],
  [/foot|fuss|fuß|voet|^p[eé]$|^ft$|^pied|^pie$|piede|ashi$/, { foot: 1 }],
  [/toe|^ball|zehe|orteil|^te?en(en)?$|dedospe$|dedopie|dedodelpie|dito|tsumasaki|instep/, { toes: 1 }],
  [/prop|weapon|lantern|tool|item|attach|holder|socket|ik|pole|target|ctrl|control|helper/, { prop: 0.6 }],
];

const FINGER_WORDS: readonly (readonly [RegExp, Finger])[] = [
  [/thumb|daumen|duim|polegar|^thm|pouce|pulgar|pollice|oyayubi/, 'thumb'],
  [/index|pointer|wijsvinger|^idx|zeigefinger|indice|hitosashi|forefinger|fore$/, 'index'],
  [/middle|mittel|middel|majeur|medio|nakayubi|^mid|finger(mid)|mid$/, 'middle'],
  [/ring|^rng|annulaire|anular|anulare|kusuriyubi/, 'ring'],
  [/pinky|pinkie|^pink$|^pnk|minimo|m[ií]nimo|little|kleiner|auriculaire|menique|meñique|mignolo|koyubi|small/, 'little'],
];

const LEFT = /^(left|links?|linke[rs]?|gauche|izquierd[ao]|izq|esquerd[ao]|esq|sinistr[ao]|sx|hidari|lft|lf|lt)$/;
const RIGHT = /^(right|rechts?|rechte[rs]?|droite?|derech[ao]|der|direit[ao]|dir|destr[ao]|dx|migi|rgt|rt)$/;
const LEFT_START = /^(left|links|linke[rs]?|gauche|izquierd[ao]|esquerd[ao]|sinistr[ao]|hidari)(?=[a-zäöüß]{2})/;
const RIGHT_START = /^(right|rechts|rechte[rs]?|droite?|derech[ao]|direit[ao]|destr[ao]|migi)(?=[a-zäöüß]{2})/;
const LEFT_END = /(left|links|gauche|izquierd[ao]|esquerd[ao]|sinistr[ao])$/;
const RIGHT_END = /(right|rechts|droite?|derech[ao]|direit[ao]|destr[ao])$/;

/** Splits a name into lower-case words: at separators, at capitals, between letters and numbers. */
export function splitName(name: string): string[] {
  return name
    .normalize('NFC')
    .replace(/([a-zäöüßéèêñ0-9])([A-ZÄÖÜ])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .replace(/([A-Za-zäöüßéèêñ])([0-9])/g, '$1 $2')
    .replace(/([0-9])([A-Za-zäöüß])/g, '$1 $2')
    .split(/[^A-Za-zÀ-ÿ0-9]+/)
    .filter((word) => word !== '')
    .map((word) => word.toLowerCase());
}

/** Reads all names of a skeleton. */
export function readNames(names: readonly string[]): NameHints[] {
  const prefix = commonPrefix(names);
  const clean = names.map((name) => bareName(name, prefix));
  // One letter says a side only where the skeleton uses both letters so.
  const oneLetter = ['l', 'r'].every((letter) => clean.some((name) => splitName(name).includes(letter)));
  // "LThumb", "RThumb": a capital glued to a capitalised word.
  const glued = ['L', 'R'].every((letter) => clean.some((name) => new RegExp(`^${letter}[A-Z][a-z]`).test(name)));
  return clean.map((name) => readName(name, oneLetter, glued));
}

function readName(name: string, oneLetter: boolean, glued: boolean): NameHints {
  let side: Side | undefined;
  if (glued && /^[LR][A-Z][a-z]/.test(name)) {
    side = name[0] === 'L' ? 'left' : 'right';
    name = name.slice(1);
  }
  const words: string[] = [];
  let number = NaN;
  for (let word of splitName(name)) {
    if (/^\d+$/.test(word)) {
      number = Number(word);
      continue;
    }
    if (side === undefined) {
      if (LEFT.test(word) || (oneLetter && word === 'l')) side = 'left';
      else if (RIGHT.test(word) || (oneLetter && word === 'r')) side = 'right';
      if (side !== undefined) continue;
      const glue = [
        [LEFT_START, 'left'],
        [RIGHT_START, 'right'],
        [LEFT_END, 'left'],
        [RIGHT_END, 'right'],
      ] as const;
      for (const [pattern, found] of glue) {
        if (pattern.test(word) && word.replace(pattern, '').length > 1) {
          side = found;
          word = word.replace(pattern, '');
          break;
        }
      }
    }
    words.push(word);
  }
  const stem = words.join('');
  const isTwist = words.some((word) => /^(twist|roll|tw|drehung|torsion|twst)$/.test(word)) || /twist|roll$/.test(stem);
  const isEnd =
    words.some((word) => /^(end|nub|tip|top|site|effector|eff|leaf|ende|fin|null)$/.test(word)) || /(nub|endsite|_?end)$/.test(stem);
  const inFoot = /toe|zehe|orteil|dedopie|foot|fuss/.test(stem);
  const finger = inFoot ? undefined : FINGER_WORDS.find(([pattern]) => pattern.test(stem))?.[1];
  const fit: Partial<Record<NamePart, number>> = {};
  if (finger === undefined) {
    for (const [pattern, parts] of WORDS) {
      if (!pattern.test(stem)) continue;
      for (const [part, score] of Object.entries(parts) as [NamePart, number][]) {
        fit[part] = Math.max(fit[part] ?? 0, score);
      }
    }
    settle(fit, stem, side);
  }
  return { stem, side, number, isTwist, isEnd, finger, fit };
}

/** Where one word holds another ("forearm" holds "arm"), the longer word wins. */
function settle(fit: Partial<Record<NamePart, number>>, stem: string, side: Side | undefined): void {
  if (fit.lowerArm === 1) delete fit.upperArm;
  if (fit.upperArm === 1) delete fit.lowerArm;
  if (fit.upperLeg === 1) delete fit.lowerLeg;
  if (fit.lowerLeg === 1) delete fit.upperLeg;
  if (fit.toes === 1) delete fit.foot;
  if (/finger/.test(stem)) {
    delete fit.hand;
    delete fit.hips;
  }
  if (fit.hand !== undefined) {
    delete fit.upperArm;
    delete fit.lowerArm;
  }
  if (/forehead|headtop|headend|eye|jaw|hair|ear$|tongue|brow|lip|cheek|lid/.test(stem)) delete fit.head;
  if (/breast|bust$|pec/.test(stem)) delete fit.spine;
  if (side === undefined && fit.hips === 1) delete fit.upperLeg;
  if (side !== undefined) delete fit.hips;
}
