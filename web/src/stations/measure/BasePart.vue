<script setup lang="ts">
/** Where and how the arm stands: mounting, feet, wheels, mass, body. */
import { IconPlus, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { freeId, isMoving, jointName, type AnyJoint, type MechanismDoc, type Wheel } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import SolidsEditor from './SolidsEditor.vue';
import { mountings, mountingWord } from './words';

const emit = defineEmits<{ problem: [sentence: string] }>();
const rigs = useRigStore();
const edit = useEdit();
const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
const base = computed(() => rigs.rig!.mechanism.base);
const on = (label: string, change: (base: MechanismDoc['base']) => void): string | void =>
  edit(label, (draft) => change(draft.mechanism.base));
const options = computed(() => [
  ...mountings.map(({ label, value }) => ({ label, value })),
  { label: 'tilted, as typed', value: 'tilted' },
]);
function mount(value: string): void {
  const found = mountings.find((m) => m.value === value);
  tell(
    on('Mounting', (b) => {
      b.mounting.rpyDeg = found ? [...found.rpyDeg] : [0, 20, 0];
      // On a wall or ceiling an arm at height 0 would lie in the ground.
      if (found && found.value !== 'floor' && b.mounting.xyzMm[2] === 0) b.mounting.xyzMm[2] = 600;
    }),
  );
}
const plate = ref({ forward: 150, left: 130 });
const fourFeet = (): void =>
  tell(
    on('Four feet', (b) => {
      const [x, y] = [plate.value.forward / 2, plate.value.left / 2];
      b.feet = [
        [x, y],
        [-x, y],
        [-x, -y],
        [x, -y],
      ];
    }),
  );
const wheels = computed(() => base.value.wheels ?? []);
const joints = computed(() => [
  { label: 'none', value: ':none' },
  ...(rigs.rig!.mechanism.joints as readonly AnyJoint[])
    .filter((j) => isMoving(j) && j.type !== 'prismatic')
    .map((j) => ({ label: jointName(j), value: j.id })),
]);
const kinds = [
  { label: 'driven', value: 'driven' },
  { label: 'turns freely', value: 'free' },
  { label: 'castor', value: 'castor' },
] as const;
const addWheel = (): void =>
  tell(
    on('Add a wheel', (b) => {
      b.wheels ??= [];
      b.wheels.push({
        id: freeId(
          'wheel',
          b.wheels.map((w) => w.id),
        ),
        xyzMm: [0, 75, 33],
        radiusMm: 33,
        widthMm: 20,
        kind: 'driven',
        joint: null,
      });
    }),
  );
const onWheel = (i: number, change: (wheel: Wheel) => void): string | void =>
  on('Wheel', (b) => change(b.wheels![i]));
</script>

<template>
  <div class="rule"><h2>Where it stands</h2></div>
  <div class="form">
    <ChoiceField
      label="Mounted"
      :options
      :value="mountingWord(base.mounting.rpyDeg)"
      @change="(v) => mount(String(v))"
    />
    <NumberField
      prefix="mass"
      :value="base.massG"
      dimension="mass"
      label="Base mass"
      :min="0"
      :commit="(v: number) => on('Base mass', (b) => (b.massG = v))"
    />
    <span />
    <span class="group">The base’s place in the world</span>
    <TripleField
      :value="base.mounting.xyzMm"
      label="Base"
      :commit="(k, v) => on('Place of the base', (b) => (b.mounting.xyzMm[k] = v))"
    />
    <TripleField
      :value="base.mounting.rpyDeg"
      label="Base"
      :words="['roll', 'pitch', 'yaw']"
      dimension="angle"
      :commit="(k, v) => on('Tilt of the base', (b) => (b.mounting.rpyDeg[k] = v))"
    />
    <span class="group">Its centre of mass</span>
    <TripleField
      :value="base.comMm"
      label="Base’s centre of mass"
      :commit="(k, v) => on('Centre of mass of the base', (b) => (b.comMm[k] = v))"
    />
  </div>

  <div class="rule">
    <h2>Feet</h2>
    <Button
      size="small"
      variant="text"
      label="Add a foot"
      @click="tell(on('Add a foot', (b) => b.feet.push([60, 60])))"
      ><template #icon><IconPlus :size="15" /></template
    ></Button>
  </div>
  <div class="row wrap plate">
    <Button size="small" severity="secondary" label="Make four feet" @click="fourFeet" />
    <span class="small">on a plate of</span>
    <NumberField
      :value="plate.forward"
      dimension="length"
      label="Plate, forward"
      :min="1"
      :commit="(v: number) => void (plate.forward = v)"
    />
    <span aria-hidden="true">×</span>
    <NumberField
      :value="plate.left"
      dimension="length"
      label="Plate, left"
      :min="1"
      :commit="(v: number) => void (plate.left = v)"
    />
  </div>
  <p v-if="!base.feet.length" class="muted small">None yet.</p>
  <div v-else class="form">
    <template v-for="(foot, i) in base.feet" :key="i">
      <NumberField
        prefix="forward"
        :value="foot[0]"
        dimension="length"
        :label="`Foot ${i + 1} forward`"
        :commit="(v: number) => on('Foot', (b) => (b.feet[i][0] = v))"
      />
      <NumberField
        prefix="left"
        :value="foot[1]"
        dimension="length"
        :label="`Foot ${i + 1} left`"
        :commit="(v: number) => on('Foot', (b) => (b.feet[i][1] = v))"
      />
      <Button
        size="small"
        variant="text"
        severity="danger"
        :aria-label="`Delete foot ${i + 1}`"
        @click="tell(on('Delete a foot', (b) => b.feet.splice(i, 1)))"
        ><IconTrash :size="15"
      /></Button>
    </template>
  </div>
  <p v-if="base.feet.length > 0 && base.feet.length < 3 && !wheels.length" class="muted small">
    Two feet do not stand; three or more do.
  </p>

  <div class="rule">
    <h2>Wheels</h2>
    <Button size="small" variant="text" label="Add a wheel" @click="addWheel"
      ><template #icon><IconPlus :size="15" /></template
    ></Button>
  </div>
  <p v-if="!wheels.length" class="muted small">None: the base does not roll.</p>
  <div v-for="(wheel, i) in wheels" :key="wheel.id" class="form">
    <ChoiceField
      label="Wheel"
      :name="`Wheel ${i + 1} kind`"
      :options="kinds"
      :value="wheel.kind"
      @change="(v) => tell(onWheel(i, (w) => (w.kind = v as Wheel['kind'])))"
    />
    <ChoiceField
      label="Turned by"
      :name="`Wheel ${i + 1} joint`"
      :options="joints"
      :value="wheel.joint ?? ':none'"
      @change="(v) => tell(onWheel(i, (w) => (w.joint = v === ':none' ? null : String(v))))"
    />
    <Button
      size="small"
      variant="text"
      severity="danger"
      :label="`Delete wheel ${i + 1}`"
      @click="tell(on('Delete a wheel', (b) => b.wheels!.splice(i, 1)))"
    />
    <TripleField
      :value="wheel.xyzMm"
      :label="`Wheel ${i + 1} axle`"
      :commit="(k, v) => onWheel(i, (w) => (w.xyzMm[k] = v))"
    />
    <NumberField
      prefix="radius"
      :value="wheel.radiusMm"
      dimension="length"
      :label="`Wheel ${i + 1} radius`"
      :min="0.1"
      :commit="(v: number) => onWheel(i, (w) => (w.radiusMm = v))"
    />
    <NumberField
      prefix="width"
      :value="wheel.widthMm"
      dimension="length"
      :label="`Wheel ${i + 1} width`"
      :min="0.1"
      :commit="(v: number) => onWheel(i, (w) => (w.widthMm = v))"
    />
  </div>

  <SolidsEditor :bodies="base.bodies ?? []" :change="(label, recipe) => on(label, (b) => recipe((b.bodies ??= [])))"
    >Its own body, which the arm must not run into</SolidsEditor
  >
</template>

<style scoped>
.plate {
  margin-bottom: 0.4rem;
}
.plate :deep(.field) {
  width: 6.2rem;
}
</style>
