<script setup lang="ts">
</script>

<template>
  <p class="muted">No checks yet.</p>
</template>
