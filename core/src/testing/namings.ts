/** Ways in which people and programs name the joints of a body; all made up of the trade's and the languages' own words. */
import {
  ABBREVIATED,
  ANATOMY,
  DUTCH,
  ENGLISH,
  FINNISH,
  FRENCH,
  GENERIC,
  GERMAN,
  ITALIAN,
  JAPANESE,
  JOINTS,
  LATIN,
  POLISH,
  PORTUGUESE,
  RUSSIAN,
  SHORT,
  SPANISH,
  SWEDISH,
  TURKISH,
  type Words,
} from './words';

export interface Naming {
  readonly title: string;
  name(role: string): string;
}

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
  naming('bones in Latin', LATIN, (s, side, n) => `${s}${n && `_${n}`}${side && `_${side[0].toUpperCase()}`}`),
  naming('bones in Latin, words joined', LATIN, (s, side, n) => `${side && cap(side)}${cap(s)}${n}`),
  naming('three and four letters, a letter for the side', ABBREVIATED, (s, side, n) => `${side && side[0]}${cap(s)}${n}`),
  naming('Swedish', SWEDISH, (s, side, n) => `${side && (side === 'left' ? 'vänster_' : 'höger_')}${s}${n && `_${n}`}`),
  naming('Polish', POLISH, (s, side, n) => `${s}${n}${side && (side === 'left' ? '_lewa' : '_prawa')}`),
  naming('Turkish', TURKISH, (s, side, n) => `${side && (side === 'left' ? 'sol_' : 'sağ_')}${s}${n && `_${n}`}`),
  naming('Japanese in Latin letters', JAPANESE, (s, side, n) => `${side && (side === 'left' ? 'hidari_' : 'migi_')}${s}${n && `_${n}`}`),
  naming('Russian in Latin letters', RUSSIAN, (s, side, n) => `${s}${n}${side && (side === 'left' ? '_levaya' : '_pravaya')}`),
  naming('Finnish', FINNISH, (s, side, n) => `${side && (side === 'left' ? 'vasen_' : 'oikea_')}${s}${n && `_${n}`}`),
  naming(
    'an ankle and toes of unknown name',
    { ...ENGLISH, foot: 'vogrinal', toes: 'dushem' },
    (s, side, n) => `${s}${n}${side && `_${side[0]}`}`,
  ),
  naming(
    'a knee and an elbow of unknown name',
    { ...ENGLISH, lowerLeg: 'kawirpo', lowerArm: 'tezlum' },
    (s, side, n) => `${side && `${side[0]}_`}${s}${n}`,
  ),
  naming(
    'thighs and arms of unknown name',
    { ...ENGLISH, upperLeg: 'brifo', upperArm: 'lumtez' },
    (s, side, n) => `${s}${n}${side && `_${side}`}`,
  ),
  naming('shouting', GENERIC, (s, side, n) => `${side && `${side.toUpperCase()}_`}${s.toUpperCase()}${n && `_${n}`}`),
];

/** Words of no language, the same for both sides, with sides that are not known as such. */
export const INVENTED: Naming = {
  title: 'words of no language',
  name: (role) => {
    const { side, parts, number } = parse(role);
    const syllables = ['vo', 'gri', 'nal', 'du', 'shem', 'ka', 'wir', 'po', 'tez', 'lum', 'bri', 'fo'];
    const hash = [...parts.join()].reduce((h, c) => (h * 33 + c.charCodeAt(0)) % 100_003, 5);
    const word = [hash % 12, (hash >> 4) % 12, (hash >> 7) % 12].map((i) => syllables[i]).join('');
    return `${word}${number && `_${number}`}${side && (side === 'left' ? '_ume' : '_oro')}`;
  },
};

/** Names that say nothing. */
export const NAMELESS: Naming = {
  title: 'no names',
  name: (role) => `b${[...role].reduce((h, c) => (h * 31 + c.charCodeAt(0)) % 9973, 7)}`,
};
