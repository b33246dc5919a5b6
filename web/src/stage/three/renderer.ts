/** The one renderer of the app: fed plain data, draws a frame only when something changed. */
import {
  AmbientLight,
  Box3,
  DirectionalLight,
  Group,
  HemisphereLight,
  Mesh,
  type Object3D,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
  Color,
  PCFShadowMap,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { LayerKind, ShownLayers } from '@cork-elbow/core/drawing';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Vec3 } from '@cork-elbow/core/linear';
import type { Rig } from '@cork-elbow/core/rig';
import { layers3d } from '../layers';
import { free, type Layer3d } from '../layers/layer';
import { ArmModel } from './arm-model';
import { fitView } from './fit-view';
import { Ink, type Palette } from './ink';
import { limitArc } from './marks';
import { Pace } from './pace';
import { surroundings, THINGS } from './surroundings';

/**
 * Points of a picture to one of the screen, to a side. Edges are smoothed by drawing more points than are shown, since what the graphics
 * smooth by themselves cannot be left out for a while: a machine that draws slowly shows whatever changes small and without
 * shadows first, and whole once nothing changes any more.
 */
const FINE = { points: 2, cost: 1 };
const FINE_SLOW = { points: 1.5, cost: 0.7 };
/** What it costs of a fine one was measured where the processor draws. */
const COARSE = { points: 0.5, cost: 0.11 };
/** What stands so long (ms) is drawn whole. */
const REST_MS = 300;

/** After so long (ms) without word of a picture the next one is drawn all the same. */
const LOST_MS = 5000;

/** Where the view looks from by itself, and the share of the picture that it fills. */
const FROM = new Vector3(0.52, -0.76, 0.4).normalize();
const FILLED = 0.84;

/** How opaque a pose that is only imagined is. */
const VEIL = 0.22;

const palettes: Record<'light' | 'dark', Palette> = {
  light: {
    paper: '#fbf7ee',
    body: '#f3ecdd',
    dark: '#5d6a67',
    ink: '#1f2a2a',
    soft: '#4e5a57',
    cork: '#b9793f',
    glaze: '#8fb0a5',
    bench: '#efe5d1',
    grid: '#dccfb6',
    alarm: '#a3260f',
  },
  dark: {
    paper: '#e6dfd0',
    body: '#c9c3b4',
    dark: '#55625f',
    ink: '#0e1413',
    soft: '#b4bdb6',
    cork: '#c98a4b',
    glaze: '#5d8a80',
    bench: '#2a3533',
    grid: '#3a4744',
    alarm: '#ff8a70',
  },
};

export interface Renderer3d {
  /** Tells when a frame is due (false), and when it is drawn and none is due any more (true). */
  whenStill(tell: (isStill: boolean) => void): void;
  /** Tells after each picture, which may have turned the view; and once it is really there, `isDone`. */
  whenDrawn(tell: (isDone: boolean) => void): void;
  attach(host: HTMLElement): void;
  detach(): void;
  resize(width: number, height: number): void;
  setTheme(theme: 'light' | 'dark'): void;
  /** `key` names the rig: the camera is set anew when it changes. */
  setRig(key: string, rig: Rig, mechanism: Mechanism): void;
  setPose(q: Float64Array, shown: Shown): void;
  /** Brings the whole arm into view. */
  fit(): void;
  /** The view as a PNG; null where the browser gives none. */
  picture(): Promise<Blob | null>;
  /** The joint under a point of the canvas (px), and the point taken hold of (m, world). */
  pick(x: number, y: number): { joint: string; point: Vec3 } | null;
  project(p: Vec3): [number, number];
  /** The point under (x, y) px in the plane through `through` square to the line of sight (m, world). */
  onSightPlane(x: number, y: number, through: Vec3): Vec3;
  /** Whether dragging turns the view. */
  setOrbit(on: boolean): void;
}

/** What is drawn beside the arm itself. */
export interface Shown {
  readonly layers: ShownLayers;
  readonly limb: string | null;
  readonly selected: string | null;
}

let shared: Renderer3d | null = null;
export const renderer3d = (): Renderer3d => (shared ??= create());

function create(): Renderer3d {
  const renderer = new WebGLRenderer({ antialias: false, alpha: true });
  renderer.debug.checkShaderErrors = import.meta.env.DEV;
  renderer.shadowMap.enabled = true;
  renderer.shadowMap.type = PCFShadowMap;
  const scene = new Scene();
  const camera = new PerspectiveCamera(32, 1, 0.01, 20);
  camera.up.set(0, 0, 1);
  camera.position.set(0.62, -0.95, 0.6);
  const controls = new OrbitControls(camera, renderer.domElement);
  controls.target.set(0.07, 0, 0.13);
  controls.maxPolarAngle = Math.PI / 2 - 0.02;
  controls.minDistance = 0.15;
  controls.maxDistance = 6;
  controls.addEventListener('change', () => draw());
  let isTurned = false;
  controls.addEventListener('start', () => (isTurned = true));
  const sun = new DirectionalLight(0xffffff, 1.9);
  sun.position.set(0.5, -0.7, 1.4);
  sun.castShadow = true;
  sun.shadow.mapSize.set(1024, 1024);
  sun.shadow.radius = 4;
  sun.shadow.bias = -0.0006;
  scene.add(new AmbientLight(0xffffff, 1.1), new HemisphereLight(0xffffff, 0xcbb890, 0.9), sun, sun.target);

  let theme: 'light' | 'dark' = 'light';
  let ink = new Ink(palettes.light);
  const veilOf = (look: 'light' | 'dark'): Ink =>
    new Ink({ ...palettes[look], body: palettes[look].alarm, ink: palettes[look].alarm }, VEIL);
  let veil = veilOf('light');
  let rig: Rig | null = null;
  let mechanism: Mechanism | null = null;
  let arm: ArmModel | null = null;
  /** The layers as they stand in the scene, and the kinds of them that are on show. */
  let laid: { readonly layer: Layer3d; readonly standing: ReturnType<Layer3d['stand']> }[] = [];
  const on = new Set<LayerKind>();
  let around: Group | null = null;
  const extras = new Group();
  scene.add(extras);
  let framed = '';
  /** How far (m) the arm can be from its base, about. */
  let reach = 0.25;

  /** Told when a frame is due, and when it has been drawn and nothing else is. */
  let onStill: (isStill: boolean) => void = () => undefined;
  let onDrawn: (isDone: boolean) => void = () => undefined;
  /** A frame at a time, and no more of them than leave the machine half of its time. */
  const pace = new Pace();
  const gl = renderer.getContext() as WebGL2RenderingContext;
  /** Passed by the graphics once the last frame is really drawn; a call returns long before where it is done in software. */
  let passing: WebGLSync | null = null;
  /** What the arm is to show by the next frame; those that come faster than frames are never made. */
  let posed: { readonly q: Float64Array; readonly shown: Shown } | null = null;
  /** Looks at every picture of the page whether the last one of the arm has passed, and draws the next that is wanted. */
  function watch(): void {
    watching = 0;
    const now = performance.now();
    const isPassed = (sync: WebGLSync): boolean =>
      gl.isContextLost() || gl.getSyncParameter(sync, gl.SYNC_STATUS) === gl.SIGNALED || now - drawnAt > LOST_MS;
    if (passing && isPassed(passing)) {
      gl.deleteSync(passing);
      passing = null;
      pace.end(now);
      onDrawn(true);
    }
    if (isWanted && pace.isFree(now)) frame();
    if ((isWanted || passing) && !watching) watching = requestAnimationFrame(watch);
  }
  let [watching, isWanted] = [0, false];
  /** Time (ms) of the last picture, and when what was drawn coarse is drawn whole. */
  let [drawnAt, refining] = [-Infinity, 0];
  function draw(isWhole = false): void {
    clearTimeout(refining);
    refining = 0;
    if (!isWhole) isChanged = true;
    isWanted = true;
    onStill(false);
    watching ||= requestAnimationFrame(watch);
  }
  /** Something changed since the last picture: one of a motion, maybe. */
  let isChanged = true;
  /** Sets how many points the next picture has; gives what it costs of a fine one. */
  function refine(isCoarse: boolean): number {
    const { points, cost } = isCoarse ? COARSE : pace.isSlow ? FINE_SLOW : FINE;
    const ratio = isCoarse ? points : Math.min(3, points * Math.max(1, window.devicePixelRatio));
    if (renderer.getPixelRatio() !== ratio) renderer.setPixelRatio(ratio);
    sun.castShadow = !isCoarse;
    return cost;
  }
  function frame(): void {
    const isCoarse = pace.isSlow && isChanged;
    isWanted = isChanged = false;
    const cost = refine(isCoarse);
    pose();
    drawnAt = performance.now();
    pace.begin(drawnAt, cost);
    if (renderer.domElement.isConnected) {
      renderer.render(scene, camera);
      passing = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
      gl.flush();
      onDrawn(false);
    }
    if (!passing) pace.end(performance.now());
    // Once nothing moves any more it is drawn whole.
    if (isCoarse) refining = window.setTimeout(() => draw(true), REST_MS);
    if (!isWanted && !refining) onStill(true);
  }
  /** The arm and what is laid on it, as they were set last. */
  function pose(): void {
    if (!posed || !arm || !rig || !mechanism) return;
    const { q, shown } = posed;
    posed = null;
    if (q.length !== mechanism.m) return;
    const { layers, limb, selected } = shown;
    arm.pose(q);
    arm.showLimb(limb);
    const stage = { rig, mechanism, q, ink, veil };
    let looksAgain = false;
    for (const { layer, standing } of laid) {
      const own = layers[layer.kind] ?? null;
      standing.show(own, stage);
      const isOn = own !== null;
      if (layer.framed === 'at-once' && isOn !== on.has(layer.kind)) looksAgain = true;
      if (isOn) on.add(layer.kind);
      else on.delete(layer.kind);
    }
    // All of it in view when it comes; later ones change it little.
    if (looksAgain) look();
    free(extras);
    extras.clear();
    if (selected) extras.add(...limitArc(rig, mechanism, q, selected, ink));
    extras.updateMatrixWorld(true);
  }
  function drop(object: Object3D | null): void {
    if (!object) return;
    scene.remove(object);
    free(object);
  }
  function rebuild(): void {
    if (!rig || !mechanism) return;
    drop(arm?.root ?? null);
    drop(around);
    for (const { standing } of laid) drop(standing.root);
    // Its materials outlive the arm: what the graphics have made of them is not made again at each edit.
    if (ink.palette !== palettes[theme]) {
      ink.dispose();
      veil.dispose();
      ink = new Ink(palettes[theme]);
      veil = veilOf(theme);
    }
    scene.background = new Color(palettes[theme].bench);
    arm = new ArmModel(rig, mechanism, ink);
    reach = 0;
    for (let j = 0; j < mechanism.n; j++)
      reach += Math.hypot(mechanism.local[12 * j + 9], mechanism.local[12 * j + 10], mechanism.local[12 * j + 11]);
    reach = Math.min(3, Math.max(0.25, reach));
    around = surroundings(rig, mechanism, ink, reach);
    laid = layers3d.map((layer) => ({ layer, standing: layer.stand() }));
    on.clear();
    scene.add(around, arm.root, ...laid.map(({ standing }) => standing.root));
    const s = sun.shadow.camera;
    s.left = s.bottom = -reach * 1.2;
    s.right = s.top = reach * 1.2;
    s.far = 6 * Math.max(1, reach);
    s.updateProjectionMatrix();
  }
  /** Looks from in front and above, as near as shows the arm, what is laid on it, and what stands where it can work. */
  function look(): void {
    if (!arm || !mechanism) return;
    const points: Vector3[] = [];
    const add = (object: Object3D, most = Infinity): void => {
      const box = new Box3().setFromObject(object);
      if (box.isEmpty() || box.getSize(new Vector3()).length() > most) return;
      const { min, max } = box;
      for (const x of [min.x, max.x])
        for (const y of [min.y, max.y]) for (const z of [min.z, max.z]) points.push(new Vector3(x, y, z));
    };
    arm.root.updateMatrixWorld(true);
    // Part by part: a box round all of a slanting arm is much larger than the arm.
    arm.root.traverse((part) => part instanceof Mesh && add(part));
    for (const { layer, standing } of laid)
      if (layer.framed && standing.root.visible && standing.root.children.length) add(standing.root);
    around?.updateMatrixWorld(true);
    const foot = new Vector3(mechanism.base[9], mechanism.base[10], mechanism.base[11]);
    for (const thing of around?.getObjectByName(THINGS)?.children ?? []) {
      const near = new Box3().setFromObject(thing).distanceToPoint(foot);
      if (near < reach) add(thing, 1.5 * reach);
    }
    const up = Math.tan(((camera.fov / 2) * Math.PI) / 180);
    const room = { across: up * camera.aspect * FILLED, up: up * FILLED };
    const stands = fitView(points, FROM, room);
    if (!stands) return;
    isTurned = false;
    controls.target.copy(stands.target);
    camera.position.copy(stands.camera);
    controls.update();
  }
  const ray = new Raycaster();
  return {
    whenStill(tell: (isStill: boolean) => void): void {
      onStill = tell;
    },
    whenDrawn(tell: (isDone: boolean) => void): void {
      onDrawn = tell;
    },
    attach(host) {
      host.append(renderer.domElement);
      this.resize(host.clientWidth, host.clientHeight);
    },
    detach: () => renderer.domElement.remove(),
    picture() {
      pose();
      refine(false);
      // Drawn and taken in one go: the canvas keeps nothing once the page has shown it.
      renderer.render(scene, camera);
      return new Promise((done) => renderer.domElement.toBlob(done, 'image/png'));
    },
    resize(width, height) {
      if (width < 2 || height < 2) return;
      renderer.setSize(width, height);
      camera.aspect = width / height;
      camera.updateProjectionMatrix();
      // As long as nobody has turned the view it goes on filling its frame.
      if (!isTurned) look();
      draw();
    },
    setTheme(next) {
      if (next === theme && around) return;
      theme = next;
      rebuild();
      draw();
    },
    fit() {
      pose();
      look();
      draw();
    },
    setOrbit(on) {
      controls.enabled = on;
    },
    pick(x, y) {
      if (!arm) return null;
      const { clientWidth: w, clientHeight: h } = renderer.domElement;
      ray.setFromCamera(new Vector2((x / w) * 2 - 1, 1 - (y / h) * 2), camera);
      for (const hit of ray.intersectObject(arm.root, true)) {
        if (!(hit.object instanceof Mesh)) continue;
        const joint = arm.jointOf(hit.object);
        return joint ? { joint, point: [hit.point.x, hit.point.y, hit.point.z] } : null;
      }
      return null;
    },
    project(p) {
      const { clientWidth: w, clientHeight: h } = renderer.domElement;
      const v = new Vector3(...p).project(camera);
      return [((v.x + 1) / 2) * w, ((1 - v.y) / 2) * h];
    },
    onSightPlane(x, y, through) {
      const { clientWidth: w, clientHeight: h } = renderer.domElement;
      ray.setFromCamera(new Vector2((x / w) * 2 - 1, 1 - (y / h) * 2), camera);
      const sight = camera.getWorldDirection(new Vector3());
      const plane = new Plane().setFromNormalAndCoplanarPoint(sight, new Vector3(...through));
      const hit = ray.ray.intersectPlane(plane, new Vector3());
      return hit ? [hit.x, hit.y, hit.z] : through;
    },
    setRig(key, nextRig, nextMechanism) {
      const same =
        rig &&
        rig.mechanism === nextRig.mechanism &&
        rig.obstacles === nextRig.obstacles &&
        rig.spots === nextRig.spots &&
        mechanism === nextMechanism;
      rig = nextRig;
      mechanism = nextMechanism;
      if (!same) rebuild();
      if (framed !== key) {
        framed = key;
        arm?.pose(mechanism.home);
        look();
      }
      draw();
    },
    setPose(q, shown) {
      posed = { q, shown };
      draw();
    },
  };
}
