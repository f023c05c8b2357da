<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { sentence } from '../api';
import { useMe } from '../stores/me';
import { pageAfter } from './then';

const me = useMe();
const route = useRoute();
const router = useRouter();
const [name, password, problem] = [ref(''), ref(''), ref('')];
const isAsking = ref(false);
const first = useTemplateRef<{ focus(): void }>('first');
onMounted(() => first.value?.focus());

async function signIn(): Promise<void> {
  [problem.value, isAsking.value] = ['', true];
  try {
    await me.signIn(name.value, password.value);
    await router.replace(pageAfter(route.query['then']));
  } catch (e) {
    [problem.value, password.value] = [sentence(e), ''];
  }
  isAsking.value = false;
}
</script>

<template>
  <main class="page door">
    <h1><img src="/mark.svg" alt="" width="28" height="28" class="me-2" />Sign in</h1>
    <form @submit.prevent="signIn">
      <label for="who">Name</label>
      <BFormInput id="who" ref="first" v-model="name" autocomplete="username" maxlength="120" required />
      <label for="password">Password</label>
      <BFormInput
        id="password"
        v-model="password"
        type="password"
        autocomplete="current-password"
        maxlength="200"
        required
      />
      <p v-if="problem" class="weak" role="alert" data-test="sign-in-problem">{{ problem }}</p>
      <BButton type="submit" variant="primary" :disabled="isAsking || !name.trim() || !password">Sign in</BButton>
    </form>
    <p class="dim">
      No account yet, or the password forgotten? An administrator of this installation gives you a link for choosing
      one.
    </p>
  </main>
</template>

<style scoped src="./door.css"></style>
