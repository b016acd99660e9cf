<script setup lang="ts">
// Settings of the person at this browser. Documents keep their own units.
import { onMounted, ref } from 'vue'
import { call, type Material } from '../api/client'
import PageHead from '../shell/PageHead.vue'
import { dark } from '../ui/theme'
import MouseFields from './MouseFields.vue'
import { useHabits } from './store'
import UnitsFields from './UnitsFields.vue'

const habits = useHabits()
const materials = ref<Material[]>([])
onMounted(async () => {
  document.title = 'Settings · Vireo'
  materials.value = (await call('get', '/api/materials')).materials
})
</script>

<template>
  <div class="whole-page">
    <PageHead><RouterLink to="/" class="btn ghost">To the shelf</RouterLink></PageHead>
    <main class="scroll" data-testid="settings">
      <h1>Settings</h1>
      <p class="muted">
        Kept in this browser for you. Documents keep the units they were given; change those at the unit sign in their head bar.
      </p>
      <div class="cards">
        <section>
          <h2>Units of new projects</h2>
          <UnitsFields v-model="habits.units" />
        </section>
        <section>
          <h2>Material of new projects</h2>
          <label class="one"
            >Parts are made of
            <select v-model="habits.material" class="field" data-testid="default-material">
              <option v-for="m in materials" :key="m.id" :value="m.id">{{ m.name }}</option>
            </select></label
          >
          <h2>Mouse</h2>
          <MouseFields />
          <h2>Theme</h2>
          <span class="segmented" role="group"
            ><button type="button" :class="{ on: !dark }" data-testid="theme-light" @click="dark = false">Light</button
            ><button type="button" :class="{ on: dark }" data-testid="theme-dark" @click="dark = true">Dark</button></span
          >
          <h2>Picture</h2>
          <label class="one"
            >Soft shadows in corners and hollows <input v-model="habits.shading" type="checkbox" data-testid="shading"
          /></label>
        </section>
      </div>
    </main>
  </div>
</template>

<style scoped>
main {
  flex: 1;
  padding: 22px 28px 40px;
}
h1 {
  font-size: 20px;
  margin: 0 0 4px;
}
h2 {
  font-size: 14px;
  margin: 0 0 10px;
}
h2:not(:first-child) {
  margin-top: 22px;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 400px));
  gap: 18px;
  margin-top: 16px;
  align-items: start;
}
section {
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 10px;
  padding: 16px 18px;
}
.one {
  display: flex;
  justify-content: space-between;
  align-items: center;
  color: var(--ink-2);
}
.one .field {
  width: 200px;
  color: var(--ink);
}
</style>
