/** Whether the disk is nearly full. */
import type { DiskUse } from '../types';

/** Whether so little is left that the person should know. */
export function isShort({ free, warnBelow }: Pick<DiskUse, 'free' | 'warnBelow'>): boolean {
  return free < warnBelow;
}
