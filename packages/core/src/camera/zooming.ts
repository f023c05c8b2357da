/** Whether a scene's focal lengths are those of a zoom. */
import { mean } from '../statistics';
import type { Scene } from './scene';

/** Share by which the focal length must change for a zoom. By trial. */
const LEAST_ZOOM = 0.04;
/**
 * Squared steps of a zoom from view to view by its variance, at the most; numbers without any order have 2.
 * Source: J. von Neumann, Distribution of the Ratio of the Mean Square Successive Difference to the Variance, 1941.
 */
const MOST_UNSTEADY = 0.7;

/** Whether the focal length changes, and does so smoothly from view to view. */
export function isZooming({ views }: Scene): boolean {
  const focals = [...views].sort(([a], [b]) => a - b).map(([, v]) => Math.log(v.focal));
  const middle = mean(focals);
  const variance = focals.reduce((sum, f) => sum + (f - middle) ** 2, 0);
  const steps = focals.slice(1).reduce((sum, f, i) => sum + (f - focals[i]!) ** 2, 0);
  return Math.max(...focals) - Math.min(...focals) > LEAST_ZOOM && steps < MOST_UNSTEADY * variance;
}
