/** Values that stand still while what they say does. */
import type { ComputedRef } from 'vue';
import { computed } from 'vue';

/**
 * As `computed`, for small plain values: whoever shows it is drawn anew when what it says has changed, not each time that
 * it was reckoned again.
 */
export function steady<T>(reckon: () => T): ComputedRef<T> {
  return computed((before?: T) => {
    const now = reckon();
    return before !== undefined && JSON.stringify(before) === JSON.stringify(now) ? before : now;
  });
}
