/** Who works in this browser, where the installation has accounts. */
import { defineStore } from 'pinia';
import type { AnswerOf } from '@yarlop/contracts/routes';
import { computed, ref } from 'vue';
import { api } from '../api';

type Me = AnswerOf<'GET /me'>;

export const useMe = defineStore('me', () => {
  const told = ref<Me | null>(null);
  const person = computed(() => told.value?.person ?? null);
  const isStudio = computed(() => told.value?.isStudio === true);
  /** whether there is somebody to sign in */
  const isStranger = computed(() => isStudio.value && person.value === null);

  /** Asks once; a server that does not answer is asked again at the next page. */
  async function load(): Promise<void> {
    if (told.value === null) told.value = await api('GET /me').catch(() => null);
  }
  async function signIn(name: string, password: string): Promise<void> {
    told.value = await api('POST /sign-in', { name, password });
  }
  async function join(token: string, name: string, password: string): Promise<void> {
    told.value = await api('POST /invitations', { token, name, password });
  }
  async function changePassword(before: string, after: string): Promise<void> {
    told.value = await api('PUT /me/password', { before, after });
  }
  async function signOut(everywhere: boolean): Promise<void> {
    await api(everywhere ? 'POST /sign-out/everywhere' : 'POST /sign-out');
    leave();
  }
  /** The server knows this browser no more, which only one with accounts says. */
  function leave(): void {
    told.value = { isStudio: true, person: null };
  }
  return { person, isStudio, isStranger, load, signIn, join, changePassword, signOut, leave };
});
