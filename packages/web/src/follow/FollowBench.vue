<script setup lang="ts">
import CameraSection from './CameraSection.vue';
import FrameSection from './FrameSection.vue';
import HandSection from './HandSection.vue';
import OutlinesSection from './OutlinesSection.vue';
import RunSection from './RunSection.vue';
import SectionsSection from './SectionsSection.vue';
import SettingsSection from './SettingsSection.vue';
import SpotsSection from './SpotsSection.vue';
import { useRecipe } from '../edits/use-recipe';

const { recipe } = useRecipe();
</script>

<template>
  <template v-if="recipe">
    <RunSection />
    <FrameSection />
    <SectionsSection />
    <OutlinesSection />
    <HandSection />
    <SpotsSection />
  </template>
  <p v-else class="dim" data-test="no-screen">
    Take a screen that is seen on the picture, or drop four corners on a screen first: press <kbd>N</kbd> or "+ Screen"
    on the picture, on a good frame.
  </p>
  <CameraSection />
  <SettingsSection v-if="recipe" />
</template>
