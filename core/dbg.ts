import { readFileSync } from 'node:fs';
import { readMotionFile } from './src/formats';
import { ClipReader } from './src/clip';
import { DEFAULT_RECIPE } from './src/recipe';
import { prepare, solveReady, solvePlain } from './src/job';
const load = async (p: string) => readMotionFile(readFileSync(p), p);
const n = process.argv[2] ?? 'recorded-take-2';
const ch = await load(`/tmp/kit/${n}-char.bvh`);
const run = async (p: string) => { const r = prepare({ take: await load(p), clip: 0, character: ch, recipe: DEFAULT_RECIPE }); return { r, t: solveReady(r), plain: solvePlain(r) }; };
const [a, b] = [await run(`../shared/real/${n}.bvh`), await run(`/tmp/kit/${n}-half.bvh`)];
const sk = a.r.character.skeleton;
const [p, q, pp, qp] = [new ClipReader(sk, a.t.clip), new ClipReader(sk, b.t.clip), new ClipReader(sk, a.plain.clip), new ClipReader(sk, b.plain.clip)];
const J = ['left.foot', 'right.foot', 'hips', 'left.hand', 'head'].map((r) => [r, a.r.character.roles.get(r)!] as const);
for (const [role, j] of J) {
  const runs: string[] = []; let start = -1, most = 0;
  for (let f = 0; f < b.t.clip.frames; f++) {
    const [u, v] = [p.at(2 * f).positions, q.at(f).positions];
    const d = 1000 * Math.hypot(u[j * 3] - v[j * 3], u[j * 3 + 1] - v[j * 3 + 1], u[j * 3 + 2] - v[j * 3 + 2]);
    if (d > 15) { if (start < 0) { start = f; most = 0; } most = Math.max(most, d); } else if (start >= 0) { runs.push(`${2 * start}-${2 * f}:${most.toFixed(0)}`); start = -1; }
  }
  let pm = 0; for (let f = 0; f < b.t.clip.frames; f++) { const [u, v] = [pp.at(2 * f).positions, qp.at(f).positions]; pm = Math.max(pm, 1000 * Math.hypot(u[j * 3] - v[j * 3], u[j * 3 + 1] - v[j * 3 + 1], u[j * 3 + 2] - v[j * 3 + 2])); }
  console.log(role, 'plain max', pm.toFixed(2), runs.join(' '));
}
const show = (t: any, m: number) => t.contacts.plants.filter((x: any) => x.last * m > 2350 && x.first * m < 2620).map((x: any) => `${x.side[0]}${x.part[0]} ${x.first * m}-${x.last * m}${x.height ? ' h' + x.height.toFixed(2) : ''}${x.rolls ? ' r' + x.rolls.toFixed(2) : ''}`).join(', ');
console.log(show(a.t, 1)); console.log(show(b.t, 2));
console.log(a.t.misses.map((m) => JSON.stringify(m)).join()); console.log(b.t.misses.map((m) => JSON.stringify(m)).join());
console.log('frame: solved − plain of left foot (mm, full | half), hips');
for (let f = 1205; f <= 1250; f += 2) {
  const d = (r: ClipReader, s: ClipReader, g: number, j: number) => { const u = [...r.at(g).positions.slice(j * 3, j * 3 + 3)], v = s.at(g).positions; return u.map((x, c) => ((x - v[j * 3 + c]) * 1000).toFixed(0)).join(','); };
  console.log(2 * f, d(p, pp, 2 * f, J[0][1]), '|', d(q, qp, f, J[0][1]), '   right', d(p, pp, 2 * f, J[1][1]), '|', d(q, qp, f, J[1][1]), '  hips', d(p, pp, 2 * f, J[2][1]), '|', d(q, qp, f, J[2][1]));
}
import { breaksOf } from './src/solve/resolve/breaks';
import { makePairing } from './src/match';
import { planPose } from './src/solve/plan';
import { posePerformance } from './src/solve/pose';
import { placeRoot } from './src/solve/root';
import { traceLimbs } from './src/solve/limbTrack';
for (const x of [a, b]) {
  const pairing = x.r.pairing; const plan = planPose(pairing); const pose = posePerformance(pairing, plan, x.r.take); const root = placeRoot(pairing, plan, pose);
  const legs = traceLimbs(pairing, plan, pose, root, plan.limbs.filter(({ kind }) => kind === 'leg'));
  const br = breaksOf(legs, x.r.take.frameTime);
  console.log('breaks', [...br.keys()].filter((f) => br[f]).map((f) => f * (x === a ? 1 : 2)).join(' '));
}
for (const [x, m, s, pl] of [[a, 1, p, pp], [b, 2, q, qp]] as const) {
  for (const side of ['left', 'right']) {
  const [u, l, ft] = ['upperLeg', 'lowerLeg', 'foot'].map((r) => x.r.character.roles.get(`${side}.${r}`)!);
  const dd = (P: Float64Array, i: number, j: number) => Math.hypot(...[0, 1, 2].map((c) => P[i * 3 + c] - P[j * 3 + c]));
  for (let f = 2426; f <= 2486; f += 6) {
    const P = pl.at(f / m).positions; const len = dd(P, u, l) + dd(P, l, ft); const out = [0, 1, 2].map((c) => (P[ft * 3 + c] - P[u * 3 + c]) / dd(P, u, ft));
    const base = [...P.slice(ft * 3, ft * 3 + 3)]; const c0 = dd(P, u, ft) / len;
    const S = s.at(f / m).positions; const d = base.map((v, c) => S[ft * 3 + c] - v);
    console.log(m, side, f, 'copied/len', c0.toFixed(3), 'solved/len', (dd(S, u, ft) / len).toFixed(3), 'out', out.map((v) => v.toFixed(2)).join(','), 'd', d.map((v) => (v * 1000).toFixed(0)).join(','), 'd·out', (1000 * d.reduce((t, v, c) => t + v * out[c], 0)).toFixed(0));
  }}
}
console.log('---- each frame');
for (const [x, m, s, pl] of [[a, 1, p, pp]] as const) {
  const j = J[0][1];
  for (let f = 2420; f <= 2496; f++) if (f < 2440 || f > 2470) {
    const u = [...s.at(f).positions.slice(j * 3, j * 3 + 3)], v = [...pl.at(f).positions.slice(j * 3, j * 3 + 3)];
    console.log(f, 'd', u.map((w, c) => ((w - v[c]) * 1000).toFixed(1)).join(', '), ' solved', u.map((w) => (w * 1000).toFixed(0)).join(','), 'plain', v.map((w) => (w * 1000).toFixed(0)).join(','));
  }
}
