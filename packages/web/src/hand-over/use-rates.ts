/** How fast deliveries were rendered here, by format: megapixels a second, for the time of the next one. */
import { useStorage } from '@vueuse/core';

/** Before anything was delivered: on two common cores (see the project's benchmarks). */
const FIRST_RATE: Readonly<Record<string, number>> = {
  mp4: 10,
  hevc: 4,
  mov: 6,
  webm: 2,
  mkv: 7,
  png: 5,
  tiff: 5,
  exr: 7,
};
const rates = useStorage<Record<string, number>>('yarlop.rates', {});

export function durationText(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${(seconds / 3600).toFixed(1)} h`;
}

export function useRates() {
  return {
    /** Takes the rate of a run (megapixels a second) in, half of it, so that one slow run does not stand for all. */
    learn: (as: string, rate: number): void => {
      if (!(rate > 0)) return;
      const before = rates.value[as];
      rates.value = { ...rates.value, [as]: before === undefined ? rate : (before + rate) / 2 };
    },
    seconds: (as: string, megapixels: number): number => megapixels / (rates.value[as] ?? FIRST_RATE[as] ?? 5),
  };
}
