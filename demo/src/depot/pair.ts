import { hold } from '../takes/moods';
import type { V3 } from '../vectors';
import { going, to, type Going, type Motion, type Thing } from './making';

/** The bier of the bell: from its middle to the hands of either bearer, along and aside, and how high its shafts are, metres. */
const BIER = { along: 1.2, aside: 0.3, high: 0.7 } as const;
/** From the shaft that a hanging hand is closed about up to the wrist, metres. */
const GRIP = 0.08;
/** Rate at which the way of the hips is read off the walk, hertz. */
const RATE = 60;

const WALK: Going = {
  walk: { count: 10, pace: 0.62, length: 0.52, width: 0.2 },
  mood: { swing: 0, tilt: 3, bend: 4, yaw: 3, list: 2 },
  low: 0.03,
};

/**
 * One of two who carry a bier between them, each a take of its own: in step, both hands on the shafts all the way.
 * @param ahead metres from the hips to the hands, back for who goes first
 * @param middle metres from the hands to the bier's middle
 */
function bearer(id: string, title: string, what: string, ahead: number, middle: number): Motion {
  let places: readonly V3[] | undefined;
  /** The way of the hips, made when it is asked for. */
  const wayOf = (): readonly V3[] => (places ??= going(id, title, what, [], WALK).play(RATE).places);
  const hips = (t: number): V3 => {
    const way = wayOf();
    const f = Math.min(way.length - 1, Math.max(0, t * RATE));
    const [a, b] = [way[Math.floor(f)], way[Math.min(way.length - 1, Math.floor(f) + 1)]];
    const u = f - Math.floor(f);
    return [0, a[1] + (b[1] - a[1]) * u, a[2] + (b[2] - a[2]) * u];
  };
  /** What is borne goes up and down with the step by less than the body does. */
  const high = (t: number): number => BIER.high + 0.4 * (hips(t)[1] - wayOf()[0][1]);
  const thing: Thing = { name: 'bier', at: (t) => ({ place: [0, high(t), hips(t)[2] + ahead + middle], turn: 0 }) };
  const motion = going(id, title, what, ['walk', 'hands', 'prop'], {
    ...WALK,
    over: (t, _, end) => {
      const wrist: V3 = [BIER.aside, high(t) + GRIP, hips(t)[2] + ahead];
      const hand = (side: 'l' | 'r'): ReturnType<typeof to> => to(side, wrist, 1, [0.5, 0, -1], [0, -1, 0.1]);
      return { l: hand('l'), r: hand('r'), nod: 4 * hold(t, 0.4, 1, end - 0.6, end) };
    },
  });
  return { ...motion, thing };
}

/** Carrying in pairs. */
export const PAIR: readonly Motion[] = [
  bearer('bier-ahead', 'Bear the bell, ahead', 'first of two, the shafts behind the hips', -0.1, -BIER.along),
  bearer('bier-behind', 'Bear the bell, behind', 'second of two, the shafts before the hips', 0.16, BIER.along),
];
