/** Colour tables (.cube) of the library. */
import { ref } from 'vue';
import { api, sendTable } from '../api';
import type { ColourTable } from '../types';

const all = ref<readonly ColourTable[]>([]);

export function useColourTables() {
  async function load(): Promise<void> {
    all.value = await api('GET /tables');
  }
  /** @throws ApiFailure with what is wrong with the file, and where */
  async function bringIn(file: File): Promise<ColourTable> {
    const made = await sendTable(file.name, await file.text());
    await load();
    return made;
  }
  return { all, load, bringIn };
}
