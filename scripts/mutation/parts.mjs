/**
 * The parts of the core whose tests are tried by changing the code: which files, which tests make claims about them (the
 * quick ones: each runs once for every change), and the least share of the changes that they must notice.
 */
const test = (name) => `packages/core/test/${name}.test.ts`;

export const PARTS = {
  geometry: {
    mutate: ['packages/core/src/geometry/*.ts'],
    tests: ['homography', 'linear-algebra', 'shapes', 'pose', 'motion', 'stiffness', 'joint-refinement', 'image'].map(
      test,
    ),
    least: 75,
  },
  formats: {
    mutate: ['packages/core/src/formats/*.ts'],
    tests: ['formats', 'exports', 'names', 'foreign-table', 'camera-exports', 'scene-world'].map(test),
    least: 75,
  },
  solve: {
    mutate: ['packages/core/src/solve/*.ts'],
    tests: [
      'stiffness',
      'joint-refinement',
      'joint-sections',
      'corrections',
      'screen-shape',
      'repair',
      'homography',
      'path',
    ].map(test),
    least: 65,
  },
  image: {
    mutate: ['packages/core/src/image/*.ts'],
    tests: ['image', 'frame-pyramids', 'clip-offset', 'loop-range', 'kernels'].map(test),
    least: 65,
  },
};
