<script setup lang="ts">
/** One's own account, in the settings. */
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { sentence } from '../api';
import { useMe } from '../stores/me';
import { LEAST_PASSWORD } from './least-password';

const me = useMe();
const router = useRouter();
const [before, after, said] = [ref(''), ref(''), ref('')];

async function signOut(everywhere: boolean): Promise<void> {
  try {
    await me.signOut(everywhere);
    await router.push('/sign-in');
  } catch (e) {
    said.value = sentence(e);
  }
}
async function change(): Promise<void> {
  try {
    await me.changePassword(before.value, after.value);
    [before.value, after.value, said.value] = ['', '', 'Changed; every other browser is signed out.'];
  } catch (e) {
    said.value = sentence(e);
  }
}
</script>

<template>
  <section v-if="me.person" data-test="account">
    <h2>You</h2>
    <p>
      Signed in as <strong>{{ me.person.name }}</strong><span v-if="me.person.isAdmin"
        >, an administrator: <RouterLink to="/settings/people" data-test="people-link">people</RouterLink></span
      >
    </p>
    <p class="d-flex gap-2">
      <BButton size="sm" variant="outline-secondary" data-test="sign-out" @click="signOut(false)">Sign out</BButton>
      <BButton size="sm" variant="outline-secondary" @click="signOut(true)">Sign out on every browser</BButton>
    </p>
    <form class="d-flex gap-2 align-items-end" @submit.prevent="change">
      <div>
        <label for="own-before">Password until now</label>
        <BFormInput
          id="own-before"
          v-model="before"
          size="sm"
          type="password"
          autocomplete="current-password"
          maxlength="200"
        />
      </div>
      <div>
        <label for="own-after">New one, {{ LEAST_PASSWORD }} letters or more</label>
        <BFormInput
          id="own-after"
          v-model="after"
          size="sm"
          type="password"
          autocomplete="new-password"
          maxlength="200"
        />
      </div>
      <BButton type="submit" size="sm" variant="outline-secondary" :disabled="!before || after.length < LEAST_PASSWORD"
        >Change</BButton
      >
    </form>
    <p v-if="said" role="status">{{ said }}</p>
  </section>
</template>

<style scoped>
h2 {
  font-size: 1rem;
}
</style>
