import { DEFAULT_RECIPE, readMotionFile, runJob } from '@hollow-stride/core';
import { makeDemo } from './src/index';
const files = await makeDemo();
const takes = (process.env.T ?? 'slow-bow,lantern-reach,crate-lift,quay-walk,turn-on-the-spot,gangplank-run,limp-home').split(',');
const chars = (process.env.C ?? 'heron,ferryman,tide-king').split(',');
const ids = ['held.feet', 'slide', 'sink', 'float', 'knees', 'elbows', 'hips', 'neck', 'flips', 'likeness.legs'];
console.log(''.padEnd(34) + ids.map((i) => i.padStart(14)).join(''));
for (const t of takes)
  for (const c of chars) {
    const tf = files.find((x) => x.name === `${t}.bvh`)!,
      cf = files.find((x) => x.name === `${c}.glb`)!;
    const take = await readMotionFile(tf.bytes, tf.name),
      character = await readMotionFile(cf.bytes, cf.name);
    const { report } = runJob({ take, clip: 0, character, recipe: DEFAULT_RECIPE });
    console.log(
      `${t} ${c}`.padEnd(34) +
        ids
          .map((i) => {
            const f = report.verdict.figures.find((x) => x.id === i)!;
            return (f.value.toFixed(2) + (f.mark === 'fault' ? '!' : f.mark === 'caution' ? '?' : ' ')).padStart(14);
          })
          .join(''),
    );
  }
