/** Colour tables (.cube) of the library. */
import { ref } from 'vue';
import { api, sendText } from '../api';

export interface ColourTable {
  readonly hash: string;
  readonly name: string;
}

const all = ref<readonly ColourTable[]>([]);

export function useColourTables() {
  async function load(): Promise<void> {
    all.value = await api<ColourTable[]>('GET', '/tables');
  }
  /** @throws ApiFailure with what is wrong with the file, and where */
  async function bringIn(file: File): Promise<ColourTable> {
    const made = await sendText<ColourTable>(`/tables?name=${encodeURIComponent(file.name)}`, await file.text());
    await load();
    return made;
  }
  return { all, load, bringIn };
}
