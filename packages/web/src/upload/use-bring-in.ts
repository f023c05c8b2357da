/** Brings a file into the shot's production from a bench: the dialog comes with the press, the box stays for who rather drops a file. */
import { nextTick, ref, useTemplateRef } from 'vue';
import { api } from '../api';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import type UploadBox from './UploadBox.vue';
import type { Finished } from './use-upload';

/** @param take is told the hash of what arrived; the template has an upload box `ref="box"`, seen while `adding` */
export function useBringIn(take: (hash: string) => void) {
  const store = useShot();
  const media = useMedia();
  const adding = ref(false);
  const box = useTemplateRef<InstanceType<typeof UploadBox>>('box');
  async function arrived(f: Finished): Promise<void> {
    const { hash } = await api('POST /media', { ...f, production: store.shot!.productionId });
    await media.load();
    take(hash);
    adding.value = box.value?.isNeeded ?? false;
  }
  async function bringIn(): Promise<void> {
    adding.value = true;
    await nextTick();
    box.value?.open();
  }
  return { adding, arrived, bringIn };
}
