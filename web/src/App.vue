<script setup lang="ts">
import { NConfigProvider, NMessageProvider } from 'naive-ui'
import { naiveTheme, overrides } from './ui/theme'
</script>

<template>
  <NConfigProvider :theme="naiveTheme" :theme-overrides="overrides" abstract>
    <NMessageProvider placement="bottom" :max="3">
      <RouterView />
    </NMessageProvider>
  </NConfigProvider>
</template>
