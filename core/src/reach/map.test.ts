import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { finish } from '../jobs';
import { solveInverse } from '../kinematics';
import { compiled, deltaDoc, fourAxis, tree } from '../kinematics/arms.testkit';
import { vec3, type Vec3 } from '../linear';
import { heldBy, Loading } from '../loads';
import type { Mechanism } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import { cellAt, compareMaps, gridOver, mapBounds, middleOf, reachMapJob, roundLength, shellMesh } from './index';
import type { MapRequest, ReachMap } from './index';
import { between } from '../units/between.testkit';

const request = (over: Partial<MapRequest> = {}): MapRequest => ({
  plane: 'side',
  height: 0.1,
  direction: null,
  samples: 60_000,
  seed: 1,
  cell: 0,
  ...over,
});

/** A turn and two bars of 100 and 70 mm that swing without limits: reaches a ring from 30 to 170 mm round the shoulder. */
const ring = (turn = 180) =>
  compiled(
    tree({
      joints: [
        {
          id: 'turn',
          type: 'revolute',
          axis: [0, 0, 1],
          origin: { xyzMm: [0, 0, 50] },
          limits: { min: -turn, max: turn },
        },
        {
          id: 'shoulder',
          type: 'revolute',
          parent: 'turn',
          axis: [0, 1, 0],
          origin: { xyzMm: [0, 0, 50] },
          limits: { min: -180, max: 180 },
        },
        {
          id: 'elbow',
          type: 'revolute',
          parent: 'shoulder',
          axis: [0, 1, 0],
          origin: { xyzMm: [0, 0, 100] },
          limits: { min: -180, max: 180 },
        },
      ],
      tools: [{ id: 'tool', parent: 'elbow', origin: { xyzMm: [0, 0, 70] } }],
    }),
  );

describe('reach maps', () => {
  it('of a ring have the ring’s area, its holes and its bounds', () => {
    const arm = ring();
    const map = finish(reachMapJob(arm, arm.tools[0], request({ cell: 0.005 })));
    const area = Math.PI * (0.17 ** 2 - 0.03 ** 2);
    expect(map.extent / area).toBeGreaterThan(0.96);
    expect(map.extent / area).toBeLessThan(1.12); // cells on the rim count whole
    expect(map.postures[cellAt(map.grid, 0.0025, 0.1025)]).toBe(0);
    const bounds = mapBounds(map)!;
    expect(bounds.out).toBeCloseTo(0.17, 2);
    expect(bounds.high).toBeCloseTo(0.27, 2);
    // Both elbows, facing and reaching over.
    expect(map.postures[cellAt(map.grid, 0.1, 0.1)]).toBe(4);
  });

  it('of a level slice follow the turn’s limits', () => {
    const arm = ring(90);
    const map = finish(reachMapJob(arm, arm.tools[0], request({ plane: 'plan', cell: 0.005 })));
    expect(map.postures[cellAt(map.grid, 0.1, 0)]).toBeGreaterThan(0);
    // Behind it is reached over the shoulder only, beside it both ways.
    expect(map.postures[cellAt(map.grid, -0.1, 0.0025)]).toBeLessThanOrEqual(
      map.postures[cellAt(map.grid, 0.1, 0.0025)],
    );
    const area = Math.PI * (0.17 ** 2 - 0.03 ** 2);
    expect(map.extent / area).toBeGreaterThan(0.9);
  });

  it('of a shell have the volume of the ball, and a closed surface round it', () => {
    const arm = ring();
    const map = finish(reachMapJob(arm, arm.tools[0], request({ plane: 'shell', cell: 0.012 })));
    const volume = (4 / 3) * Math.PI * (0.17 ** 3 - 0.03 ** 3);
    expect(map.extent / volume).toBeGreaterThan(0.95);
    expect(map.extent / volume).toBeLessThan(1.25);
    const mesh = shellMesh(map);
    // Every edge is walked once each way: no gaps.
    const edges = new Map<string, number>();
    for (let t = 0; t < mesh.triangles.length; t += 3)
      for (let e = 0; e < 3; e++) {
        const [a, b] = [mesh.triangles[t + e], mesh.triangles[t + ((e + 1) % 3)]];
        edges.set(`${a}>${b}`, (edges.get(`${a}>${b}`) ?? 0) + 1);
      }
    for (const [edge, count] of edges) {
      const [a, b] = edge.split('>');
      expect(edges.get(`${b}>${a}`)).toBe(count);
    }
    // Its faces look outward: the signed volume is that of the cells, a little less for the smoothing.
    let signed = 0;
    for (let t = 0; t < mesh.triangles.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((e): Vec3 => {
        const v = 3 * mesh.triangles[t + e];
        return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]];
      });
      signed += vec3.dot(a, vec3.cross(b, c)) / 6;
    }
    expect(signed / map.extent).toBeGreaterThan(0.85);
    expect(signed / map.extent).toBeLessThan(1.02);
  });

  it('are the same however the work is cut, and for the same seed', () => {
    const arm = compiled(fourAxis());
    const whole = finish(reachMapJob(arm, arm.tools[0], request({ samples: 12_000 })));
    const job = reachMapJob(arm, arm.tools[0], request({ samples: 12_000 }));
    let step = job.step(1);
    while (!step.done) step = job.step(3);
    expect(step.value.postures).toEqual(whole.postures);
    expect(step.value.margin).toEqual(whole.margin);
    expect(step.value.manipulability).toEqual(whole.manipulability);
  });

  it('tell what torque is left: less the more is held, nothing else changes, and springs are seen as the arm turns', () => {
    const rig = tileDipper();
    const arm = compiled(rig.mechanism);
    const of = (massG: number, over: Partial<MapRequest> = {}, on = arm): ReachMap => {
      const held = [heldBy(on.tools[0], { massG, comMm: [0, 0, 0], inertiaKgM2: null })];
      const wished = request({ samples: 8000, cell: 0.02, ...over });
      return finish(reachMapJob(on, on.tools[0], wished, new Loading(rig, on, held)));
    };
    for (const over of [{}, { plane: 'plan' as const }, { direction: [0, 0, -1] as const, cell: 0.04 }]) {
      const plain = finish(reachMapJob(arm, arm.tools[0], request({ samples: 8000, cell: 0.02, ...over })));
      expect(plain.torqueLeft).toBeNull();
      const [light, heavy] = [of(0, over), of(250, over)];
      let less = 0;
      light.postures.forEach((count, at) => {
        expect(count).toBe(plain.postures[at]);
        expect(light.margin[at]).toBe(plain.margin[at]);
        const [a, b] = [light.torqueLeft![at], heavy.torqueLeft![at]];
        if (!count) return expect([a, b]).toEqual([0, 0]);
        expect(a).toBeLessThanOrEqual(1);
        expect(b).toBeLessThanOrEqual(a);
        if (b < a) less++;
      });
      expect(less).toBeGreaterThan(20);
    }
    // A spring between base and forearm pulls otherwise at every turn: the turn is not worked out any more.
    const from = { joint: null, xyzMm: [200, 0, 100] as [number, number, number] };
    const to = { joint: 'elbow', xyzMm: [0, 0, 60] as [number, number, number] };
    const spring = { kind: 'between' as const, id: 's', name: 's', from, to, nPerMm: 0.02, freeMm: 20 };
    const sprung = compiled({ ...rig.mechanism, springs: [spring] });
    expect(of(0, {}, sprung).done).toBeGreaterThan(of(0).done);
  });

  it.each(['side', 'plan'] as const)(
    'with the tool straight down, cells of a %s slice are those the solver reaches',
    (plane) => {
      const arm = compiled(fourAxis());
      const map = finish(reachMapJob(arm, arm.tools[0], request({ plane, direction: [0, 0, -1], cell: 0.02 })));
      expect(map.method).toBe('solved');
      let reached = 0;
      map.postures.forEach((count, at) => {
        const [a, b] = middleOf(map.grid, at);
        const position: Vec3 = plane === 'side' ? [a, 0, b] : [a, b, 0.1];
        const task = { kind: 'direction' as const, position, direction: [0, 0, -1] as const };
        const { solutions } = solveInverse(arm, arm.tools[0], task, arm.home, { explained: false });
        expect(count).toBe(solutions.length);
        reached += Number(count > 0);
      });
      expect(reached).toBeGreaterThan(8);
    },
  );

  it('mark no cell that the arm cannot come near, for any kind of arm', () => {
    const arms = [
      compiled(fourAxis(14)),
      compiled(deltaDoc()),
      ...['rail-arm', 'scara', 'stacking-arm', 'column-arm'].map((id) => {
        const rig = rigFromPreset(presetById(id), id);
        if (!rig.ok) throw new Error();
        return compiled(rig.value.mechanism);
      }),
    ];
    for (const arm of arms) {
      const [tool] = arm.tools;
      const map = finish(reachMapJob(arm, tool, request({ samples: 20_000, height: arm.delta ? 0.05 : 0.1 })));
      expect(map.extent).toBeGreaterThan(0);
      const reached = Array.from(map.postures.keys()).filter((at) => map.postures[at]);
      fc.assert(
        fc.property(fc.nat(), (n) => {
          const at = reached[n % reached.length];
          const [a, b] = middleOf(map.grid, at);
          const position: Vec3 = [map.origin[0] + a, map.origin[1], b];
          const { reachable, closest } = solveInverse(arm, tool, { kind: 'free', position });
          // The middle may lie just outside; something in the cell does not.
          if (!reachable) expect(closest!.distance).toBeLessThan(1.3 * map.grid.cell);
        }),
        { numRuns: 25 },
      );
    }
  });

  it('tell what a longer forearm gains and a narrower limit loses', () => {
    const doc = fourAxis();
    const make = (change: (d: ReturnType<typeof fourAxis>) => void): ReachMap => {
      const next = structuredClone(doc);
      change(next);
      const arm = compiled(next);
      return finish(reachMapJob(arm, arm.tools[0], request({ cell: 0.01 })));
    };
    const before = make(() => undefined);
    const longer = compareMaps(
      before,
      make((d) => void (d.joints[3].origin.xyzMm[2] += 30)),
    )!;
    expect(longer.gainedExtent).toBeGreaterThan(0.01);
    const narrower = compareMaps(
      before,
      make((d) => {
        const [, shoulder] = d.joints;
        if (shoulder.type === 'revolute') shoulder.limits = { min: -40, max: 40 };
      }),
    )!;
    expect(narrower.lostExtent).toBeGreaterThan(0.005);
    // Chance of sampling at the rim only.
    expect(narrower.gainedExtent).toBeLessThan(0.05 * narrower.lostExtent);
    expect(compareMaps(before, { ...before, grid: { ...before.grid, cell: 0.02 } })).toBeNull();
  });

  it('of a tool without joints are empty', () => {
    const arm = compiled(tree({ joints: [], tools: [{ id: 'tool', origin: { xyzMm: [0, 0, 10] } }] }));
    expect(finish(reachMapJob(arm, arm.tools[0], request({ cell: 0.01 }))).extent).toBe(0);
  });
});

describe('grids', () => {
  it('hold every point of their box in the cell whose middle is nearest', () => {
    const coordinate = between(-0.5, 0.5);
    fc.assert(
      fc.property(coordinate, coordinate, coordinate, fc.constantFrom(0.01, 0.025, 0.05), (x, y, z, cell) => {
        const grid = gridOver(cell, [-0.6, -0.6, -0.6], [0.6, 0.6, 0.6]);
        const at = cellAt(grid, x, y, z);
        middleOf(grid, at).forEach((v, k) =>
          expect(Math.abs(v - [x, y, z][k])).toBeLessThanOrEqual(cell / 2 + 1e-12),
        );
        expect(cellAt(grid, 0.7, 0, 0)).toBe(-1);
      }),
    );
  });
  it('have round cells that are large enough', () => {
    fc.assert(
      fc.property(between(1e-4, 10), (least) => {
        const cell = roundLength(least);
        expect(cell).toBeGreaterThanOrEqual(least * (1 - 1e-9));
        expect(cell / least).toBeLessThan(1.6);
      }),
    );
  });
});

describe('maps with joints held', () => {
  const rail = (): Mechanism => {
    const rig = rigFromPreset(presetById('rail-arm'), 'rail');
    if (!rig.ok) throw new Error();
    return compiled(rig.value.mechanism);
  };
  const arm = rail();
  const [tool] = arm.tools;
  const carriage = arm.ids[arm.jointOfSlot[tool.slots[0]]];
  const held = (at: number): ReachMap =>
    finish(
      reachMapJob(
        arm,
        tool,
        request({ plane: 'plan', height: 0.15, cell: 0.02, samples: 40_000, held: { [carriage]: at } }),
      ),
    );
  it('cover less than over the whole travel, and the same wherever the carriage stands', () => {
    const [low, high] = [arm.lower[tool.slots[0]], arm.upper[tool.slots[0]]];
    const whole = finish(
      reachMapJob(arm, tool, request({ plane: 'plan', height: 0.15, cell: 0.02, samples: 40_000 })),
    );
    const at = low + 0.06;
    const further = at + 0.2;
    expect(further).toBeLessThan(high);
    const [one, other] = [held(at), held(further)];
    expect(one.extent).toBeGreaterThan(0);
    expect(one.extent).toBeLessThan(0.9 * whole.extent);
    // Ten cells along: the same map, ten cells further.
    expect(other.extent / one.extent).toBeGreaterThan(0.97);
    expect(other.extent / one.extent).toBeLessThan(1.03);
  });
  it('mark only places that are reached without moving what is held', () => {
    const at = arm.lower[tool.slots[0]] + 0.1;
    const map = held(at);
    const near = arm.home.slice();
    near[tool.slots[0]] = at;
    let [sure, all] = [0, 0];
    map.postures.forEach((count, cell) => {
      if (!count || cell % 37) return;
      all++;
      const [x, y] = middleOf(map.grid, cell);
      const options = { held: new Set([tool.slots[0]]), explained: false };
      const task = { kind: 'free', position: [x, y, 0.15] } as const;
      if (solveInverse(arm, tool, task, near, options).reachable) sure++;
    });
    expect(all).toBeGreaterThan(5);
    // Cells on the rim are marked for a corner that is reached.
    expect(sure / all).toBeGreaterThan(0.85);
  });
  it('with everything held mark nothing', () => {
    const all = Object.fromEntries(arm.slotIds.map((id, s) => [id, arm.home[s]]));
    expect(finish(reachMapJob(arm, tool, request({ held: all }))).extent).toBe(0);
  });
});

describe('maps of a delta', () => {
  it('are solved cell by cell: every marked middle is reached, and no other', () => {
    const delta = compiled(deltaDoc());
    const [tool] = delta.tools;
    const map = finish(reachMapJob(delta, tool, request({ plane: 'plan', height: 0.05, cell: 0.01 })));
    expect(map.method).toBe('solved');
    expect(map.extent).toBeGreaterThan(0.005);
    map.postures.forEach((count, cell) => {
      const [x, y] = middleOf(map.grid, cell);
      const { reachable } = solveInverse(delta, tool, { kind: 'free', position: [x, y, 0.05] });
      expect(count > 0).toBe(reachable);
    });
  });
});
