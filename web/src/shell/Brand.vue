<template>
  <RouterLink to="/" class="brand" title="Shelf">
    <img src="/mark.svg" alt="" width="26" height="26" />
    <b>Vireo</b>
  </RouterLink>
</template>

<style scoped>
.brand {
  display: inline-flex;
  align-items: center;
  gap: 8px;
  color: inherit;
  text-decoration: none;
  font-size: 15px;
}
.brand b {
  font-weight: 650;
  letter-spacing: 0.2px;
}
</style>
