<script setup lang="ts">
/** The view aid as one filter of the page, which the picture and the close-ups refer to. */
import { useView } from '../stores/view';
import { channelMatrix } from '../shared/view-aid';

const view = useView();
/** Sharpens by what a place differs from its four neighbours. */
const SHARPEN = '0 -1 0 -1 5 -1 0 -1 0';
</script>

<template>
  <svg width="0" height="0" aria-hidden="true" class="holder">
    <filter id="view-aid" color-interpolation-filters="sRGB" x="0" y="0" width="100%" height="100%">
      <feColorMatrix type="matrix" :values="channelMatrix(view.channel)" />
      <feComponentTransfer>
        <component
          :is="f"
          v-for="f in ['feFuncR', 'feFuncG', 'feFuncB']"
          :key="f"
          type="linear"
          :slope="view.brighten * view.contrast"
          :intercept="0.5 * (1 - view.contrast)"
        />
      </feComponentTransfer>
      <feComponentTransfer>
        <component
          :is="f"
          v-for="f in ['feFuncR', 'feFuncG', 'feFuncB']"
          :key="f"
          type="gamma"
          :exponent="1 / view.gamma"
        />
      </feComponentTransfer>
      <feConvolveMatrix v-if="view.edges" order="3" :kernelMatrix="SHARPEN" preserveAlpha="true" />
    </filter>
  </svg>
</template>

<style scoped>
.holder {
  position: absolute;
}
</style>
