<script setup lang="ts">
/** Who may work here: invited, made administrators, shut out. */
import { useClipboard } from '@vueuse/core';
import type { AnswerOf } from '@yarlop/contracts/routes';
import { onMounted, ref } from 'vue';
import { api, sentence } from '../api';
import { agoText } from '../shared/format';
import { useMe } from '../stores/me';

type Person = AnswerOf<'GET /people'>[number];

const me = useMe();
const people = ref<readonly Person[] | null>(null);
const [name, problem] = [ref(''), ref('')];
const isAdmin = ref(false);
/** the link that was made last; it is shown this once */
const link = ref<{ readonly name: string; readonly address: string; readonly hours: number } | null>(null);
const { copy, copied } = useClipboard({ legacy: true });

async function load(): Promise<void> {
  people.value = await api('GET /people');
}
/** What it refuses is said, and the list is as the server has it. */
async function tried(work: () => Promise<void>): Promise<void> {
  problem.value = '';
  try {
    await work();
  } catch (e) {
    problem.value = sentence(e);
  }
  await load().catch((e: unknown) => (problem.value = sentence(e)));
}
onMounted(() => tried(async () => {}));

function show({ person, token, hours }: AnswerOf<'POST /people'>): void {
  link.value = { name: person.name, address: `${location.origin}/join#${token}`, hours };
}
const invite = (): Promise<void> =>
  tried(async () => {
    show(await api('POST /people', { name: name.value.trim(), isAdmin: isAdmin.value }));
    [name.value, isAdmin.value] = ['', false];
  });
const makeLink = ({ id }: Person): Promise<void> => tried(async () => show(await api('POST /people/:id/link', { id })));
const change = ({ id }: Person, part: { isAdmin?: boolean; isShut?: boolean }): Promise<void> =>
  tried(async () => void (await api('PUT /people/:id', { id }, part)));

function stateOf(p: Person): string {
  if (p.isShut) return 'shut out';
  if (!p.hasPassword) return 'invited';
  return p.seen ? `signed in ${agoText(p.seen)}` : 'has not signed in yet';
}
</script>

<template>
  <main class="page">
    <p class="mb-1"><RouterLink to="/settings">Settings</RouterLink></p>
    <h1>People</h1>
    <p class="dim">
      Everybody here sees and changes every production. Administrators also invite people, shut them out, and remove for
      good what lies in the bin.
    </p>
    <p v-if="problem" class="weak" role="alert" data-test="people-problem">{{ problem }}</p>
    <form class="d-flex gap-3 align-items-end mb-3" @submit.prevent="invite">
      <div>
        <label for="invited">Invite somebody</label>
        <BFormInput id="invited" v-model="name" maxlength="120" placeholder="Their name" />
      </div>
      <BFormCheckbox v-model="isAdmin" class="mb-1">as an administrator</BFormCheckbox>
      <BButton type="submit" variant="primary" :disabled="!name.trim()">Make a link</BButton>
    </form>
    <div v-if="link" class="link" role="status" data-test="link">
      <p class="mb-1">
        With this link <strong>{{ link.name }}</strong> chooses a password. It serves once, within
        {{ link.hours }} hours, and is shown only now: send it to them alone.
      </p>
      <code data-test="link-address">{{ link.address }}</code>
      <BButton size="sm" variant="outline-secondary" class="ms-2" @click="copy(link.address)">{{
        copied ? 'Copied' : 'Copy'
      }}</BButton>
    </div>
    <p v-if="people === null && !problem" class="dim" role="status">Loading ...</p>
    <table v-if="people" class="w-100" data-test="people">
      <thead>
        <tr>
          <th>Name</th>
          <th>State</th>
          <th>Administrator</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in people" :key="p.id" :class="{ dim: p.isShut }" :data-test="`person-${p.name}`">
          <td>{{ p.name }}<span v-if="p.id === me.person?.id" class="dim"> (you)</span></td>
          <td class="dim">{{ stateOf(p) }}</td>
          <td>
            <BFormCheckbox
              :model-value="p.isAdmin"
              :aria-label="`${p.name} is an administrator`"
              @update:model-value="change(p, { isAdmin: !p.isAdmin })"
            />
          </td>
          <td class="text-end">
            <BButton v-if="!p.isShut" size="sm" variant="outline-secondary" @click="makeLink(p)">{{
              p.hasPassword ? 'Link for a new password' : 'New link'
            }}</BButton>
            <BButton
              v-if="p.id !== me.person?.id"
              size="sm"
              variant="outline-secondary"
              class="ms-2"
              @click="change(p, { isShut: !p.isShut })"
              >{{ p.isShut ? 'Let in again' : 'Shut out' }}</BButton
            >
          </td>
        </tr>
      </tbody>
    </table>
  </main>
</template>

<style scoped>
.link {
  border: 1px solid var(--brass);
  padding: 0.7rem 0.9rem;
  margin-bottom: 1rem;
}
code {
  color: inherit;
  user-select: all;
  overflow-wrap: anywhere;
}
th {
  font-weight: normal;
  color: var(--text-dim);
}
td,
th {
  padding: 0.35rem 0.8rem 0.35rem 0;
  border-bottom: 1px solid var(--line);
}
.weak {
  color: var(--weak);
}
</style>
