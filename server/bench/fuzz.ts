/**
 * Reads a great many broken files of all formats: each must be taken with facts that the contract lets through, or refused with a
 * reason; none may take over 2 s, nor the process 500 MB more.
 *
 *   npm run fuzz                  100,000 files
 *   npm run fuzz -- 5000 7        so many, from another seed
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import { mutate, outcomeOf, seeds } from '../src/testing/mutate';
import { print, seeded } from './serve';

const COUNT = Number(process.argv[2] ?? 100_000);
const random = seeded(Number(process.argv[3] ?? 1));
const whole = await seeds();
for (const seed of whole) await outcomeOf(seed.bytes, seed.name);
const before = process.resourceUsage().maxRSS / 1024;
const counts = { taken: 0, refused: 0, defects: 0 };
let slowest = { ms: 0, name: '' };
for (let i = 0; i < COUNT; i++) {
  const seed = whole[i % whole.length];
  const bytes = mutate(seed, random);
  const start = performance.now();
  const outcome = await outcomeOf(bytes, seed.name);
  const ms = performance.now() - start;
  if (ms > slowest.ms) slowest = { ms, name: `${i} ${seed.name}` };
  if (outcome === 'taken') counts.taken++;
  else if (outcome === 'refused') counts.refused++;
  else {
    counts.defects++;
    const path = join(tmpdir(), `hollow-stride-fuzz-${i}-${seed.name}`);
    writeFileSync(path, bytes);
    if (counts.defects <= 10)
      print(`a defect, kept as ${path}: ${outcome.defect instanceof Error ? (outcome.defect.stack ?? '') : String(outcome.defect)}`);
  }
}
const after = process.resourceUsage().maxRSS / 1024;
print(`${COUNT} files: ${counts.taken} taken, ${counts.refused} refused, ${counts.defects} defects`);
print(`slowest ${slowest.ms.toFixed(0)} ms (${slowest.name}); memory ${before.toFixed(0)} MB before, ${after.toFixed(0)} MB at most`);
process.exit(counts.defects > 0 || slowest.ms > 2000 || after - before > 500 ? 1 : 0);
