<script setup lang="ts">
/** What the view holds still on the page while it plays, and over which frames. */
import { computed } from 'vue';
import { sentenceOf } from '../commands/catalogue';
import { provideCommand } from '../commands/use-commands';
import { usePlayhead } from '../stores/playhead';
import { useOutlineChoice } from '../stores/outline-choice';
import type { RideOn } from '../stores/ride';
import { RIDE_ON, useRide } from '../stores/ride';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';

const ride = useRide();
const view = useView();
const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const NAMES: Readonly<Record<RideOn, string>> = {
  middle: 'the middle',
  TL: 'corner TL',
  TR: 'corner TR',
  BR: 'corner BR',
  BL: 'corner BL',
  top: 'the top side',
  right: 'the right side',
  bottom: 'the bottom side',
  left: 'the left side',
};
const CORNERS = ['TL', 'TR', 'BR', 'BL'] as const;
/** Seconds to each side that are played round and round. */
const AROUND: readonly number[] = [0.5, 1, 2];
const choice = useOutlineChoice();
const places = computed(() => [
  { value: null, text: 'nothing' },
  ...RIDE_ON.map((value) => ({ value, text: NAMES[value] })),
  ...(choice.chosen || ride.outline ? [{ value: 'outline' as const, text: 'the chosen outline' }] : []),
]);
const on = computed({
  get: () => ride.on,
  set: (place) => {
    ride.outline = place === 'outline' ? (choice.chosen ?? ride.outline) : null;
    ride.on = place;
  },
});
const spans = [
  { value: null, text: 'working range' },
  ...AROUND.map((value) => ({ value, text: `${value} s to each side` })),
];
/** A Screen that is nowhere but on its reference frame has nothing to ride on. */
const isFollowed = computed(() => store.chosenId !== null && (tracks.tracks.get(store.chosenId)?.frames.size ?? 0) > 0);
function wanted(): typeof ride.on {
  if (view.armed !== null) return CORNERS[view.armed]!;
  return choice.chosen ? 'outline' : 'middle';
}
provideCommand(
  'ride',
  () => (on.value = on.value === null ? wanted() : null),
  () => isFollowed.value,
);
const frames = computed(() => playhead.span && `${playhead.span[0]} to ${playhead.span[1]}`);
</script>

<template>
  <div v-if="isFollowed" class="ride" :class="{ riding: ride.on !== null }">
    <label :title="sentenceOf('ride')"
      >Hold still
      <BFormSelect v-model="on" size="sm" :options="places" data-test="ride-on" />
    </label>
    <label v-if="ride.on !== null" title="Frames that are played round and round while riding"
      >over
      <BFormSelect v-model="ride.around" size="sm" :options="spans" data-test="ride-around" />
    </label>
    <span v-if="ride.on !== null && frames" class="mono dim" data-test="ride-frames">{{ frames }}</span>
  </div>
</template>

<style scoped>
.ride {
  position: absolute;
  left: 8px;
  bottom: 8px;
  display: flex;
  align-items: center;
  gap: 0.6rem;
  padding: 2px 6px;
  font-size: 0.75rem;
  background: var(--ink);
  border: 1px solid var(--line);
  border-radius: 3px;
  opacity: 0.75;
}
.ride:hover,
.ride:focus-within,
.ride.riding {
  opacity: 1;
}
.riding {
  border-color: var(--brass);
}
.ride label {
  display: flex;
  align-items: center;
  gap: 0.35rem;
  margin: 0;
}
.ride select {
  width: auto;
  padding-block: 0;
  font-size: 0.75rem;
}
</style>
