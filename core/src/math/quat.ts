/**
 * Unit quaternions (x, y, z, w) inside flat arrays, addressed by offset, output first.
 * Nothing here allocates. Rotations compose as in column vectors: `a·b` turns by b, then by a.
 */
import { acos, atan2, cos, sin } from './trig';

/** Any indexable run of numbers. */
export type Numbers = Float64Array | Float32Array | number[];

/** out[oo…] = identity. */
export function identity(out: Numbers, oo: number): void {
  out[oo] = 0;
  out[oo + 1] = 0;
  out[oo + 2] = 0;
  out[oo + 3] = 1;
}

/** out = a. */
export function copy(out: Numbers, oo: number, a: Numbers, ao: number): void {
  out[oo] = a[ao];
  out[oo + 1] = a[ao + 1];
  out[oo + 2] = a[ao + 2];
  out[oo + 3] = a[ao + 3];
}

/** out = a·b; out may be a or b. */
export function mul(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number): void {
  const ax = a[ao],
    ay = a[ao + 1],
    az = a[ao + 2],
    aw = a[ao + 3];
  const bx = b[bo],
    by = b[bo + 1],
    bz = b[bo + 2],
    bw = b[bo + 3];
  out[oo] = ax * bw + aw * bx + ay * bz - az * by;
  out[oo + 1] = ay * bw + aw * by + az * bx - ax * bz;
  out[oo + 2] = az * bw + aw * bz + ax * by - ay * bx;
  out[oo + 3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** out = a⁻¹·b for unit a; out may be a or b. */
export function invMul(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number): void {
  const ax = -a[ao],
    ay = -a[ao + 1],
    az = -a[ao + 2],
    aw = a[ao + 3];
  const bx = b[bo],
    by = b[bo + 1],
    bz = b[bo + 2],
    bw = b[bo + 3];
  out[oo] = ax * bw + aw * bx + ay * bz - az * by;
  out[oo + 1] = ay * bw + aw * by + az * bx - ax * bz;
  out[oo + 2] = az * bw + aw * bz + ax * by - ay * bx;
  out[oo + 3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** out = a·b⁻¹ for unit b; out may be a or b. */
export function mulInv(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number): void {
  const ax = a[ao],
    ay = a[ao + 1],
    az = a[ao + 2],
    aw = a[ao + 3];
  const bx = -b[bo],
    by = -b[bo + 1],
    bz = -b[bo + 2],
    bw = b[bo + 3];
  out[oo] = ax * bw + aw * bx + ay * bz - az * by;
  out[oo + 1] = ay * bw + aw * by + az * bx - ax * bz;
  out[oo + 2] = az * bw + aw * bz + ax * by - ay * bx;
  out[oo + 3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** out = a⁻¹ for unit a. */
export function invert(out: Numbers, oo: number, a: Numbers, ao: number): void {
  out[oo] = -a[ao];
  out[oo + 1] = -a[ao + 1];
  out[oo + 2] = -a[ao + 2];
  out[oo + 3] = a[ao + 3];
}

/** Scales to unit length; a zero quaternion becomes the identity. */
export function normalize(out: Numbers, oo: number): void {
  const x = out[oo],
    y = out[oo + 1],
    z = out[oo + 2],
    w = out[oo + 3];
  const n = x * x + y * y + z * z + w * w;
  if (n < 1e-24) {
    identity(out, oo);
    return;
  }
  const s = 1 / Math.sqrt(n);
  out[oo] = x * s;
  out[oo + 1] = y * s;
  out[oo + 2] = z * s;
  out[oo + 3] = w * s;
}

/** out = the vector v turned by q; out may be v. */
export function rotate(out: Numbers, oo: number, q: Numbers, qo: number, v: Numbers, vo: number): void {
  const qx = q[qo],
    qy = q[qo + 1],
    qz = q[qo + 2],
    qw = q[qo + 3];
  const vx = v[vo],
    vy = v[vo + 1],
    vz = v[vo + 2];
  const tx = 2 * (qy * vz - qz * vy);
  const ty = 2 * (qz * vx - qx * vz);
  const tz = 2 * (qx * vy - qy * vx);
  out[oo] = vx + qw * tx + qy * tz - qz * ty;
  out[oo + 1] = vy + qw * ty + qz * tx - qx * tz;
  out[oo + 2] = vz + qw * tz + qx * ty - qy * tx;
}

/** out = the vector v turned by q⁻¹. */
export function unrotate(out: Numbers, oo: number, q: Numbers, qo: number, v: Numbers, vo: number): void {
  const qx = -q[qo],
    qy = -q[qo + 1],
    qz = -q[qo + 2],
    qw = q[qo + 3];
  const vx = v[vo],
    vy = v[vo + 1],
    vz = v[vo + 2];
  const tx = 2 * (qy * vz - qz * vy);
  const ty = 2 * (qz * vx - qx * vz);
  const tz = 2 * (qx * vy - qy * vx);
  out[oo] = vx + qw * tx + qy * tz - qz * ty;
  out[oo + 1] = vy + qw * ty + qz * tx - qx * tz;
  out[oo + 2] = vz + qw * tz + qx * ty - qy * tx;
}

/** out = rotation by `angle` radians about a unit axis. */
export function fromAxisAngle(out: Numbers, oo: number, x: number, y: number, z: number, angle: number): void {
  const s = sin(angle * 0.5);
  out[oo] = x * s;
  out[oo + 1] = y * s;
  out[oo + 2] = z * s;
  out[oo + 3] = cos(angle * 0.5);
}

/**
 * out = the smallest rotation that turns direction a to direction b (any lengths).
 * Opposite directions turn about an axis square to a; zero vectors give the identity.
 */
export function between(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number): void {
  const ax = a[ao],
    ay = a[ao + 1],
    az = a[ao + 2];
  const bx = b[bo],
    by = b[bo + 1],
    bz = b[bo + 2];
  const n = Math.sqrt((ax * ax + ay * ay + az * az) * (bx * bx + by * by + bz * bz));
  if (n < 1e-18) {
    identity(out, oo);
    return;
  }
  const w = n + ax * bx + ay * by + az * bz;
  if (w < 1e-9 * n) {
    // Half a turn: any square axis will do; take the one least aligned with a.
    if (Math.abs(ax) <= Math.abs(ay) && Math.abs(ax) <= Math.abs(az)) {
      out[oo] = 0;
      out[oo + 1] = -az;
      out[oo + 2] = ay;
    } else if (Math.abs(ay) <= Math.abs(az)) {
      out[oo] = az;
      out[oo + 1] = 0;
      out[oo + 2] = -ax;
    } else {
      out[oo] = -ay;
      out[oo + 1] = ax;
      out[oo + 2] = 0;
    }
    out[oo + 3] = 0;
  } else {
    out[oo] = ay * bz - az * by;
    out[oo + 1] = az * bx - ax * bz;
    out[oo + 2] = ax * by - ay * bx;
    out[oo + 3] = w;
  }
  normalize(out, oo);
}

/** Angle of a rotation in [0, π] radians. */
export function angle(q: Numbers, qo: number): number {
  const x = q[qo],
    y = q[qo + 1],
    z = q[qo + 2];
  return 2 * atan2(Math.sqrt(x * x + y * y + z * z), Math.abs(q[qo + 3]));
}

/** Angle in radians of the rotation from a to b. */
export function angleBetween(a: Numbers, ao: number, b: Numbers, bo: number): number {
  const d = Math.abs(a[ao] * b[bo] + a[ao + 1] * b[bo + 1] + a[ao + 2] * b[bo + 2] + a[ao + 3] * b[bo + 3]);
  return 2 * acos(d);
}

/** out[3] = rotation vector (axis × angle) of q on the short arc. */
export function log(out: Numbers, oo: number, q: Numbers, qo: number): void {
  const sign = q[qo + 3] < 0 ? -1 : 1;
  const x = q[qo] * sign,
    y = q[qo + 1] * sign,
    z = q[qo + 2] * sign,
    w = q[qo + 3] * sign;
  const s = Math.sqrt(x * x + y * y + z * z);
  const k = s < 1e-12 ? 2 : (2 * atan2(s, w)) / s;
  out[oo] = x * k;
  out[oo + 1] = y * k;
  out[oo + 2] = z * k;
}

/** out = rotation with rotation vector (x, y, z). */
export function exp(out: Numbers, oo: number, x: number, y: number, z: number): void {
  const a = Math.sqrt(x * x + y * y + z * z);
  const k = a < 1e-9 ? 0.5 : sin(a * 0.5) / a;
  out[oo] = x * k;
  out[oo + 1] = y * k;
  out[oo + 2] = z * k;
  out[oo + 3] = a < 1e-9 ? 1 : cos(a * 0.5);
}

const LOCAL = new Float64Array(8);

/** out = the rotation a fraction t of the way from a to b on the short arc (Shoemake 1985). */
export function slerp(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number, t: number): void {
  invMul(LOCAL, 0, a, ao, b, bo);
  log(LOCAL, 4, LOCAL, 0);
  const x = LOCAL[4] * t,
    y = LOCAL[5] * t,
    z = LOCAL[6] * t;
  exp(LOCAL, 0, x, y, z);
  mul(out, oo, a, ao, LOCAL, 0);
}

/** The twist angle of q about a unit axis, in (−π, π] (swing–twist decomposition, q = swing·twist). */
export function twistAngle(q: Numbers, qo: number, x: number, y: number, z: number): number {
  const d = q[qo] * x + q[qo + 1] * y + q[qo + 2] * z;
  let a = 2 * atan2(d, q[qo + 3]);
  if (a > Math.PI) a -= 2 * Math.PI;
  else if (a <= -Math.PI) a += 2 * Math.PI;
  return a;
}

/** Negates q where that brings it nearer to the quaternion at p, so that time series do not jump in sign. */
export function alignSign(q: Numbers, qo: number, p: Numbers, po: number): void {
  if (q[qo] * p[po] + q[qo + 1] * p[po + 1] + q[qo + 2] * p[po + 2] + q[qo + 3] * p[po + 3] < 0) {
    q[qo] = -q[qo];
    q[qo + 1] = -q[qo + 1];
    q[qo + 2] = -q[qo + 2];
    q[qo + 3] = -q[qo + 3];
  }
}

/** out = rotation whose columns are the orthonormal axes x, y, z (each 3 numbers). */
export function fromAxes(
  out: Numbers,
  oo: number,
  xx: number,
  xy: number,
  xz: number,
  yx: number,
  yy: number,
  yz: number,
  zx: number,
  zy: number,
  zz: number,
): void {
  const t = xx + yy + zz;
  if (t > 0) {
    const s = Math.sqrt(t + 1) * 2;
    out[oo] = (yz - zy) / s;
    out[oo + 1] = (zx - xz) / s;
    out[oo + 2] = (xy - yx) / s;
    out[oo + 3] = s / 4;
  } else if (xx > yy && xx > zz) {
    const s = Math.sqrt(1 + xx - yy - zz) * 2;
    out[oo] = s / 4;
    out[oo + 1] = (yx + xy) / s;
    out[oo + 2] = (zx + xz) / s;
    out[oo + 3] = (yz - zy) / s;
  } else if (yy > zz) {
    const s = Math.sqrt(1 + yy - xx - zz) * 2;
    out[oo] = (yx + xy) / s;
    out[oo + 1] = s / 4;
    out[oo + 2] = (zy + yz) / s;
    out[oo + 3] = (zx - xz) / s;
  } else {
    const s = Math.sqrt(1 + zz - xx - yy) * 2;
    out[oo] = (zx + xz) / s;
    out[oo + 1] = (zy + yz) / s;
    out[oo + 2] = s / 4;
    out[oo + 3] = (xy - yx) / s;
  }
  normalize(out, oo);
}

/**
 * out = the rotation of the frame whose first axis is along a and whose second lies in the plane of a and b.
 * a and b are vectors of any length; returns false when they are parallel or zero (out is then the identity).
 */
export function fromFrame(out: Numbers, oo: number, a: Numbers, ao: number, b: Numbers, bo: number): boolean {
  let ax = a[ao],
    ay = a[ao + 1],
    az = a[ao + 2];
  const la = Math.sqrt(ax * ax + ay * ay + az * az);
  let bx = b[bo],
    by = b[bo + 1],
    bz = b[bo + 2];
  const lb = Math.sqrt(bx * bx + by * by + bz * bz);
  if (la < 1e-12 || lb < 1e-12) {
    identity(out, oo);
    return false;
  }
  ax /= la;
  ay /= la;
  az /= la;
  const d = ax * bx + ay * by + az * bz;
  bx -= d * ax;
  by -= d * ay;
  bz -= d * az;
  const n = Math.sqrt(bx * bx + by * by + bz * bz);
  if (n < 1e-6 * lb) {
    identity(out, oo);
    return false;
  }
  bx /= n;
  by /= n;
  bz /= n;
  fromAxes(out, oo, ax, ay, az, bx, by, bz, ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
  return true;
}
