/** Other poses, each as a veil of the arm; the models stay, since dragging shows another pose at every picture. */
import { Group } from 'three';
import { ArmModel } from '../three/arm-model';
import { layer3d } from './layer';

export const ghosts = layer3d({
  kind: 'ghosts',
  framed: 'when-fitted',
  stand: () => {
    const root = new Group();
    const models: ArmModel[] = [];
    return {
      root,
      show(poses, { rig, mechanism, veil }) {
        const fitting = (poses ?? []).filter((q) => q.length === mechanism.m);
        fitting.forEach((q, k) => {
          if (!models[k]) {
            models[k] = new ArmModel(rig, mechanism, veil);
            models[k].base.visible = false;
            root.add(models[k].root);
          }
          models[k].root.visible = true;
          models[k].pose(q);
        });
        for (const model of models.slice(fitting.length)) model.root.visible = false;
        root.visible = fitting.length > 0;
      },
    };
  },
});
