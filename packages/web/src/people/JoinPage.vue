<script setup lang="ts">
/** A link's page: name and password are chosen here. The token stands behind `#`, so that no log of any server holds it. */
import { computed, onMounted, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { api, sentence } from '../api';
import { useMe } from '../stores/me';
import { LEAST_PASSWORD } from './least-password';

const me = useMe();
const router = useRouter();
const token = useRoute().hash.slice(1);
const [name, password, again, problem] = [ref(''), ref(''), ref(''), ref('')];
const isOfUse = ref<boolean | null>(null);
const isReady = computed(
  () => name.value.trim() !== '' && password.value.length >= LEAST_PASSWORD && again.value === password.value,
);
const hint = computed(() => {
  if (password.value === '') return `At least ${LEAST_PASSWORD} letters; several words are easier to keep than signs.`;
  if (password.value.length < LEAST_PASSWORD) return `${LEAST_PASSWORD - password.value.length} more letters.`;
  return again.value === password.value ? 'Both are the same.' : 'Type the same once more.';
});

onMounted(async () => {
  try {
    name.value = (await api('POST /invitations/look', { token })).name;
    isOfUse.value = true;
  } catch (e) {
    [problem.value, isOfUse.value] = [sentence(e), false];
  }
});

async function join(): Promise<void> {
  problem.value = '';
  try {
    await me.join(token, name.value, password.value);
    await router.replace('/');
  } catch (e) {
    problem.value = sentence(e);
  }
}
</script>

<template>
  <main class="page door">
    <h1><img src="/mark.svg" alt="" width="28" height="28" class="me-2" />Choose a password</h1>
    <p v-if="isOfUse === null" class="dim" role="status">Asking ...</p>
    <form v-if="isOfUse" @submit.prevent="join">
      <label for="who">Your name, as others here shall see it</label>
      <BFormInput id="who" v-model="name" autocomplete="username" maxlength="120" required />
      <label for="password">Password</label>
      <BFormInput id="password" v-model="password" type="password" autocomplete="new-password" maxlength="200" />
      <label for="again">The same once more</label>
      <BFormInput id="again" v-model="again" type="password" autocomplete="new-password" maxlength="200" />
      <p class="dim mb-0" role="status">{{ hint }}</p>
      <BButton type="submit" variant="primary" :disabled="!isReady">Begin</BButton>
    </form>
    <p v-if="problem" class="weak" role="alert" data-test="join-problem">{{ problem }}</p>
    <p v-if="isOfUse === false"><RouterLink to="/sign-in">Sign in</RouterLink></p>
  </main>
</template>

<style scoped src="./door.css"></style>
