/**
 * Sine, cosine, arc tangent and arc cosine built only from operations that IEEE 754 defines
 * exactly (+ − × ÷ √), so that a solve gives the same bits in every JavaScript engine.
 * `Math.sin` and its kin may differ between engines in the last place.
 *
 * Method: Cody–Waite argument reduction by π/2 in three parts and the minimax polynomials of
 * the freely distributed fdlibm (K. C. Ng, Sun Microsystems, 1993); errors below 1 ulp for |x| < 1e5.
 */

const PIO2_1 = 1.5707963267341256;
const PIO2_2 = 6.077100506303966e-11;
const PIO2_3 = 2.0222662487111665e-21;
const TWO_OVER_PI = 0.6366197723675814;

export const PI = 3.141592653589793;
export const TAU = 2 * PI;
export const DEG = PI / 180;

function kernelSin(x: number): number {
  const z = x * x;
  return (
    x +
    x *
      z *
      (-1.66666666666666324348e-1 +
        z *
          (8.33333333332248946124e-3 +
            z *
              (-1.98412698298579493134e-4 +
                z * (2.75573137070700676789e-6 + z * (-2.50507602534068634195e-8 + z * 1.58969099521155010221e-10)))))
  );
}

function kernelCos(x: number): number {
  const z = x * x;
  const tail =
    z *
    z *
    (4.16666666666666019037e-2 +
      z *
        (-1.38888888888741095749e-3 +
          z *
            (2.48015872894767294178e-5 +
              z * (-2.75573143513906633035e-7 + z * (2.0875723212981748279e-9 + z * -1.13596475577881948265e-11)))));
  const half = 0.5 * z;
  const one = 1 - half;
  return one + (1 - one - half + tail);
}

/** Sine of an angle in radians, |x| < 1e5 for full accuracy. */
export function sin(x: number): number {
  const n = Math.round(x * TWO_OVER_PI);
  const r = x - n * PIO2_1 - n * PIO2_2 - n * PIO2_3;
  switch (n & 3) {
    case 0:
      return kernelSin(r);
    case 1:
      return kernelCos(r);
    case 2:
      return -kernelSin(r);
    default:
      return -kernelCos(r);
  }
}

/** Cosine of an angle in radians, |x| < 1e5 for full accuracy. */
export function cos(x: number): number {
  const n = Math.round(x * TWO_OVER_PI);
  const r = x - n * PIO2_1 - n * PIO2_2 - n * PIO2_3;
  switch (n & 3) {
    case 0:
      return kernelCos(r);
    case 1:
      return -kernelSin(r);
    case 2:
      return -kernelCos(r);
    default:
      return kernelSin(r);
  }
}

function kernelAtan(x: number): number {
  const z = x * x;
  const w = z * z;
  const odd =
    z *
    (3.33333333333329318027e-1 +
      w *
        (1.42857142725034663711e-1 +
          w *
            (9.09088713343650656196e-2 +
              w * (6.66107313738753120669e-2 + w * (4.97687799461593236017e-2 + w * 1.62858201153657823623e-2)))));
  const even =
    w *
    (-1.99999999998764832476e-1 +
      w *
        (-1.1111110405462355788e-1 + w * (-7.69187620504482999495e-2 + w * (-5.83357013379057348645e-2 + w * -3.6531572744216915527e-2))));
  return x - x * (odd + even);
}

/** Arc tangent, in (−π/2, π/2). */
export function atan(x: number): number {
  const a = x < 0 ? -x : x;
  let r: number;
  if (a < 0.4375) return kernelAtan(x);
  if (a < 0.6875) r = 4.63647609000806093515e-1 + kernelAtan((2 * a - 1) / (2 + a));
  else if (a < 1.1875) r = 7.85398163397448278999e-1 + kernelAtan((a - 1) / (a + 1));
  else if (a < 2.4375) r = 9.82793723247329054082e-1 + kernelAtan((a - 1.5) / (1 + 1.5 * a));
  else r = 1.570796326794896558 + kernelAtan(-1 / a);
  return x < 0 ? -r : r;
}

/** Angle of the point (x, y) from the x axis, in (−π, π]; 0 for the origin. */
export function atan2(y: number, x: number): number {
  if (x > 0) return atan(y / x);
  if (x < 0) return y >= 0 ? atan(y / x) + PI : atan(y / x) - PI;
  return y > 0 ? PI / 2 : y < 0 ? -PI / 2 : 0;
}

/** Arc cosine with its argument held to [−1, 1]; in [0, π]. */
export function acos(x: number): number {
  if (x >= 1) return 0;
  if (x <= -1) return PI;
  return atan2(Math.sqrt((1 - x) * (1 + x)), x);
}

/** Arc sine with its argument held to [−1, 1]; in [−π/2, π/2]. */
export function asin(x: number): number {
  if (x >= 1) return PI / 2;
  if (x <= -1) return -PI / 2;
  return atan2(x, Math.sqrt((1 - x) * (1 + x)));
}

/** Exponential by argument halving and a Taylor series; deterministic, relative error below 1e-14. */
export function exp(x: number): number {
  if (x < -700) return 0;
  if (x > 700) return Infinity;
  let halvings = 0;
  let r = x;
  while (r > 0.25 || r < -0.25) {
    r *= 0.5;
    halvings++;
  }
  let term = 1;
  let sum = 1;
  for (let i = 1; i < 13; i++) {
    term *= r / i;
    sum += term;
  }
  for (let i = 0; i < halvings; i++) sum *= sum;
  return sum;
}

const LN_2 = 6.93147180559945286227e-1;

/** Natural logarithm of a positive number, by halving down to [1, 2) and the series of the inverse hyperbolic tangent; −∞ for 0. */
export function log(x: number): number {
  if (!(x > 0)) return x === 0 ? -Infinity : NaN;
  if (x === Infinity) return x;
  let halvings = 0;
  let m = x;
  for (; m >= 2; halvings++) m *= 0.5;
  for (; m < 1; halvings--) m *= 2;
  const t = (m - 1) / (m + 1);
  let term = t;
  let sum = 0;
  for (let i = 1; i < 40; i += 2) {
    sum += term / i;
    term *= t * t;
  }
  return 2 * sum + halvings * LN_2;
}
