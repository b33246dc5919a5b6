<script setup lang="ts">
/** Other devices of the local network: whether they may come in, which did, and what each may do. */
import { useIntervalFn } from '@vueuse/core';
import { format } from 'date-fns';
import Button from 'primevue/button';
import { computed, onMounted, ref, shallowRef } from 'vue';
import type { DeviceRight, NetworkAnswer } from '@cork-elbow/core/contract';
import { networkApi } from '../api-network';
import { CallError } from '../api';
import ChoiceField from '../shared/ChoiceField.vue';
import NumberField from '../shared/NumberField.vue';
import TextField from '../shared/TextField.vue';

/** Null: this page is itself on such a device, which has no say in it. */
const network = shallowRef<NetworkAnswer | null>(null);
const trouble = ref('');
const busy = ref(false);
const port = ref(0);

async function take(call: () => Promise<NetworkAnswer>): Promise<void> {
  busy.value = true;
  try {
    network.value = await call();
    port.value = network.value.port;
    trouble.value = '';
  } catch (error) {
    // Who comes by the network is not asked.
    if (!(error instanceof CallError && error.body?.code === 'here-only')) trouble.value = (error as Error).message;
  } finally {
    busy.value = false;
  }
}
onMounted(() => take(networkApi.state));
// While a code is shown somebody may be about to use it.
useIntervalFn(() => void (network.value?.code && !busy.value && take(networkApi.state)), 1500);

const rights: { label: string; value: DeviceRight }[] = [
  { label: 'watches and stops', value: 'watch' },
  { label: 'changes and drives too', value: 'drive' },
];
const state = computed(() => {
  const { open, devices, problem } = network.value!;
  const count = devices.length === 1 ? '1 device paired' : `${devices.length} devices paired`;
  if (problem) return problem;
  return open ? `open to this network; ${count}` : 'only this computer comes in';
});
const minutes = computed(() => {
  const s = network.value?.code?.forS ?? 0;
  return s > 90 ? `${Math.round(s / 60)} minutes` : `${s} s`;
});
const at = (time: string): string => format(new Date(time), 'd MMM yyyy, HH:mm');
const spaced = (code: string): string => `${code.slice(0, 4)} ${code.slice(4)}`;
</script>

<template>
  <details v-if="network || trouble" class="network">
    <summary>
      <b>Other devices</b> <span class="muted">· {{ network ? state : 'not known' }}</span>
    </summary>
    <p v-if="trouble" class="alarm" role="alert">{{ trouble }}</p>
    <div v-if="network" class="inside">
      <p class="small">
        A tablet or phone in the same network can show the arm at the bench. It comes by HTTPS with a certificate of
        this computer, and only after it was paired by a code that is shown here. Whoever drives has to see the arm:
        give that right to devices that stay beside it.
      </p>
      <div class="row">
        <div class="port">
          <NumberField
            label="Port for other devices"
            prefix="port"
            dimension="count"
            :value="port"
            :min="1024"
            :max="65535"
            :decimals="0"
            :disabled="network.open"
            :commit="(to) => void (port = to)"
          />
        </div>
        <Button
          v-if="!network.open"
          label="Open to this network"
          :loading="busy"
          @click="take(() => networkApi.choose(true, port))"
        />
        <Button
          v-else
          severity="secondary"
          label="Close to all of them"
          :loading="busy"
          @click="take(() => networkApi.choose(false, port))"
        />
      </div>
      <p v-if="network.problem" class="alarm" role="alert">{{ network.problem }} Choose another port.</p>
      <template v-if="network.open">
        <dl>
          <dt>Address</dt>
          <dd v-for="address in network.addresses" :key="address" class="mono">{{ address }}</dd>
          <dd v-if="!network.addresses.length">This computer is in no network now.</dd>
          <dt>Fingerprint</dt>
          <dd class="mono print">{{ network.fingerprint }}</dd>
          <dd class="muted small">
            SHA-256. The browser there warns of a certificate that nobody vouches for: compare before you go on.
            <template v-if="network.until">Holds until {{ at(network.until) }}.</template>
          </dd>
        </dl>
        <div class="row code">
          <template v-if="network.code">
            <output class="mono" aria-label="Code for one device">{{ spaced(network.code.text) }}</output>
            <span class="muted small grow">Type it there within {{ minutes }}. It pairs one device.</span>
          </template>
          <Button
            :severity="network.code ? 'secondary' : undefined"
            size="small"
            :label="network.code ? 'Another code' : 'Pair a device'"
            @click="take(networkApi.code)"
          />
        </div>
      </template>
      <ul v-if="network.devices.length" aria-label="Paired devices">
        <li v-for="device in network.devices" :key="device.id">
          <TextField
            :label="`Name of ${device.name}`"
            :value="device.name"
            :commit="(name) => void take(() => networkApi.change(device.id, { name }))"
          />
          <ChoiceField
            label=""
            :name="`What ${device.name} may do`"
            :options="rights"
            :value="device.right"
            @change="take(() => networkApi.change(device.id, { right: $event as DeviceRight }))"
          />
          <span class="muted small"
            >paired {{ at(device.pairedAt) }}{{ device.seenAt ? `, seen ${at(device.seenAt)}` : '' }}</span
          >
          <Button
            size="small"
            variant="text"
            severity="danger"
            label="Delete"
            :aria-label="`Delete ${device.name}`"
            @click="take(() => networkApi.remove(device.id))"
          />
        </li>
      </ul>
    </div>
  </details>
</template>

<style scoped>
.network {
  background: var(--paper);
  border-radius: 6px;
  padding: 0.7rem 1rem;
  margin-top: 1.6rem;
}
summary {
  cursor: pointer;
}
.inside {
  display: grid;
  gap: 0.7rem;
  margin-top: 0.6rem;
}
p {
  margin: 0;
  max-width: 46rem;
}
.row {
  align-items: center;
  gap: 0.8rem;
}
.port {
  width: 9rem;
}
.row > :deep(button) {
  white-space: nowrap;
}
dl {
  display: grid;
  grid-template-columns: 6.5rem minmax(0, 1fr);
  gap: 0.25rem 0.6rem;
  margin: 0;
}
dt {
  grid-column: 1;
  color: var(--ink-2);
}
dd {
  grid-column: 2;
  margin: 0;
  overflow-wrap: anywhere;
}
.mono {
  font-family: var(--mono, ui-monospace, monospace);
}
.print {
  font-size: 0.86rem;
}
output {
  font-size: 1.7rem;
  font-weight: 700;
  letter-spacing: 0.08em;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  border-top: 1px solid var(--lines);
}
li {
  display: grid;
  grid-template-columns: minmax(8rem, 14rem) 13.5rem 1fr auto;
  gap: 0.7rem;
  align-items: center;
  padding: 0.4rem 0;
  border-bottom: 1px solid var(--lines);
}
.alarm {
  color: var(--alarm);
  font-weight: 600;
}
</style>
