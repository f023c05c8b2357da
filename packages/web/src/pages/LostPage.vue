<template>
  <main class="page">
    <h1>There is nothing at this address</h1>
    <p><RouterLink to="/">Go to the productions</RouterLink></p>
  </main>
</template>
