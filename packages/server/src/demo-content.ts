/** Made-up content of the demo: a phone on which a call arrives while somebody writes. */
import type { BodyOf } from '@yarlop/contracts/routes';

export const HARBOUR_CALL: BodyOf<'POST /productions/:id/contents'> = {
  name: 'Harbour call',
  document: {
    ground: [0.06, 0.15, 0.19],
    proportions: 0.462,
    layers: [
      { kind: 'shape', shape: 'oval', width: 0.9, height: 0.5, colour: [0.1, 0.27, 0.32], x: 0.5, y: 1 },
      {
        kind: 'piece',
        piece: 'clock',
        size: 0.13,
        x: 0.5,
        y: 0.12,
        ink: [0.95, 0.94, 0.9],
        fields: { from: '17:42', below: 'Thursday, half flood' },
      },
      {
        kind: 'piece',
        piece: 'chat',
        size: 0.3,
        x: 0.5,
        y: 0.62,
        amount: [
          { frame: 0, value: 1 },
          { frame: 20, value: 2 },
          { frame: 40, value: 3 },
          { frame: 60, value: 4 },
        ],
      },
      {
        kind: 'piece',
        piece: 'call',
        size: 0.17,
        x: 0.5,
        y: [
          { frame: 12, value: -0.12, ease: 'eased' },
          { frame: 24, value: 0.33 },
        ],
      },
      { kind: 'piece', piece: 'battery', size: 0.05, x: 0.22, y: 0.94, amount: 0.6, ink: [0.95, 0.94, 0.9] },
    ],
  },
};
