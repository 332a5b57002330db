import * as v from 'valibot';

/** The body maps of VRM 1.0 (`VRMC_vrm`) and VRM 0.x (`VRM`) as far as they name joints. */
const node = v.pipe(v.number(), v.integer(), v.minValue(0));
const schema = v.object({
  extensions: v.object({
    VRMC_vrm: v.optional(v.object({ humanoid: v.object({ humanBones: v.record(v.string(), v.object({ node })) }) })),
    VRM: v.optional(v.object({ humanoid: v.object({ humanBones: v.array(v.object({ bone: v.string(), node })) }) })),
  }),
});

const TRUNK: Readonly<Record<string, string>> = { hips: 'hips', neck: 'neck.1', head: 'head' };
const LIMBS: Readonly<Record<string, string>> = {
  Shoulder: 'clavicle',
  UpperArm: 'upperArm',
  LowerArm: 'lowerArm',
  Hand: 'hand',
  UpperLeg: 'upperLeg',
  LowerLeg: 'lowerLeg',
  Foot: 'foot',
  Toes: 'toes',
};
/**
 * The roles that an avatar's own body map gives to nodes.
 * @param json a glTF document
 * @returns node index of each role; undefined for a file that is no VRM avatar
 */
export function readBodyMap(json: unknown): Map<string, number> | undefined {
  const parsed = v.safeParse(schema, json);
  if (!parsed.success) return undefined;
  const { VRMC_vrm: one, VRM: zero } = parsed.output.extensions;
  const bones = one
    ? Object.entries(one.humanoid.humanBones).map(([bone, { node: n }]) => [bone, n] as const)
    : zero?.humanoid.humanBones.map(({ bone, node: n }) => [bone, n] as const);
  if (!bones || bones.length === 0) return undefined;
  const roles = new Map<string, number>();
  const byName = new Map(bones);
  ['spine', 'chest', 'upperChest']
    .map((bone) => byName.get(bone))
    .filter((n) => n !== undefined)
    .forEach((n, i) => roles.set(`spine.${i + 1}`, n));
  for (const [bone, n] of bones) {
    if (bone in TRUNK) roles.set(TRUNK[bone], n);
    const found = /^(left|right)(\w+)$/.exec(bone);
    if (!found) continue;
    const [, side, part] = found;
    if (part in LIMBS) roles.set(`${side}.${LIMBS[part]}`, n);
  }
  for (const side of ['left', 'right']) {
    for (const finger of ['Thumb', 'Index', 'Middle', 'Ring', 'Little']) {
      // A thumb begins with its metacarpal in 1.0 and with its proximal in 0.x.
      ['Metacarpal', 'Proximal', 'Intermediate', 'Distal']
        .map((part) => byName.get(`${side}${finger}${part}`))
        .filter((n) => n !== undefined)
        .forEach((n, i) => roles.set(`${side}.${finger.toLowerCase()}.${i + 1}`, n));
    }
  }
  return roles;
}
