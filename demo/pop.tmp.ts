import { readFileSync } from 'node:fs';
import { ClipReader, DEFAULT_RECIPE, readMotionFile, runJob } from '@hollow-stride/core';
const [takeFile, charFile, ...rest] = process.argv.slice(2);
const read = async (f: string) => readMotionFile(new Uint8Array(readFileSync(f)), f.split('/').pop()!);
const take = await read(takeFile);
const character = await read(charFile);
const out: any = runJob({ take, clip: 0, character, recipe: DEFAULT_RECIPE });
const t = out.transfer;
for (const f of out.report.figures ?? out.report.verdict?.figures ?? []) if (f.mark !== 'good') console.log(f.mark, f.id, f.value.toFixed(2), f.frame, '|', f.words);
const { pairing } = t;
console.log('scale', pairing.scale, 'frames', t.clip.frames, Object.keys(out), Object.keys(t));
const cr = new ClipReader(pairing.character.skeleton, t.clip);
const plain = t.plain ? new ClipReader(pairing.character.skeleton, t.plain) : undefined;
const pr = new ClipReader(pairing.performer.skeleton, t.take ?? out.take.clip);
const at = (r: any, rig: any, role: string, f: number) => { const p = r.at(f); const j = rig.roles.get(role); return [0, 1, 2].map((c) => (p.positions[j * 3 + c] * 100).toFixed(1)).join(','); };
const ang = (r: any, rig: any, side: string, f: number) => { const p = r.at(f); const q = ['upperLeg', 'lowerLeg', 'foot'].map((n) => rig.roles.get(side + '.' + n)); const v = (a: number, b: number) => [0, 1, 2].map((c) => p.positions[b * 3 + c] - p.positions[a * 3 + c]); const a = v(q[1], q[0]), b = v(q[1], q[2]); return (Math.acos(a.reduce((s, x, i) => s + x * b[i], 0) / Math.hypot(...a) / Math.hypot(...b)) * 180) / Math.PI; };
for (const side of ['left', 'right']) {
  const k = Array.from({ length: t.clip.frames }, (_, f) => ang(cr, pairing.character, side, f));
  const pk = Array.from({ length: t.clip.frames }, (_, f) => ang(pr, pairing.performer, side, f));
  const d = k.map((x, i) => (i > 0 && i + 1 < k.length ? Math.abs(k[i - 1] - 2 * x + k[i + 1]) : 0));
  const pd = pk.map((x, i) => (i > 0 && i + 1 < k.length ? Math.abs(pk[i - 1] - 2 * x + pk[i + 1]) : 0));
  const sorted = d.map((x, i) => [x, i]).sort((a, b) => b[0] - a[0]).slice(0, 14);
  console.log(side, 'worst knee bends', sorted.map(([x, i]) => `${i}:${x.toFixed(1)}(${pd[i].toFixed(1)})`).join(' '));
  console.log('  sorted performer', pd.map((x, i) => [x, i]).sort((a, b) => b[0] - a[0]).slice(0, 10).map(([x, i]) => `${i}:${x.toFixed(1)}`).join(' '));
}
if (rest.length) {
  const [a, b] = rest[0].split('-').map(Number);
  console.log(t.contacts.plants.filter((p: any) => p.last >= a - 5 && p.first <= b + 5).map((p: any) => `${p.side} ${p.part} ${p.first}-${p.last}`).join('; '));
  for (let f = a; f <= b; f += Math.max(1, Math.round((b - a) / 30))) console.log(f, ['hips', 'left.foot', 'right.foot', 'left.toes', 'right.toes', 'head'].map((r) => `${r} ${at(pr, pairing.performer, r, f)} > ${at(cr, pairing.character, r, f)}`).join(' | '), 'knees', ['left', 'right'].map((s) => `${ang(pr, pairing.performer, s, f).toFixed(0)}>${ang(cr, pairing.character, s, f).toFixed(0)}`).join(' '));
}
