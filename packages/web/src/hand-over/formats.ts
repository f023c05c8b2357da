/** What can be handed over: what it is called, and what it is for. */

export interface FormatChoice {
  readonly value: string;
  readonly text: string;
  readonly what: string;
}

const f = (value: string, text: string, what: string): FormatChoice => ({ value, text, what });

export const PICTURES: readonly FormatChoice[] = [
  f('mp4', 'H.264, .mp4', 'One file for viewing and editing; no alpha'),
  f('hevc', 'HEVC, .mp4', 'Smaller than H.264, 10 bit for deep plates; no alpha'),
  f('mov', 'ProRes, .mov', '422 HQ, or 4444 with alpha for an element'),
  f('webm', 'VP9, .webm', 'For web pages; with alpha for an element'),
  f('mkv', 'FFV1, .mkv', 'Lossless, every bit as rendered; with alpha for an element'),
  f('png', 'PNG sequence', 'Exact outside the pin, 8 or 16 bit as the plate'),
  f('tiff', 'TIFF sequence', 'Exact outside the pin, 8 or 16 bit as the plate'),
  f('exr', 'OpenEXR sequence', 'Scene-linear light in half or full floats; nothing is clipped'),
];
/** A picture a frame. */
export const SEQUENCES = ['png', 'tiff', 'exr'];
export const CARRIES_ALPHA = ['mov', 'webm', 'mkv', 'png', 'tiff', 'exr'];
export const CARRIES_SOUND = ['mp4', 'hevc', 'mov', 'webm', 'mkv'];
export const SHOWS = [
  { value: 'dressed', text: 'finished picture' },
  { value: 'element', text: 'element with alpha' },
  { value: 'clean', text: 'clean plate' },
  { value: 'matte', text: 'matte' },
  { value: 'stabilised', text: 'plate held still by the Screen' },
  { value: 'flat', text: 'the Screen laid flat' },
];
/** Parts that add up to the finished picture; floats only. */
export const PASSES = [
  { value: 'pass-element', text: 'pass: element, with alpha' },
  { value: 'pass-light', text: 'pass: kept light' },
  { value: 'pass-spill', text: 'pass: spill change' },
  { value: 'pass-holdout', text: 'pass: holdouts' },
];

export const DATA: readonly { readonly label: string; readonly choices: readonly FormatChoice[] }[] = [
  {
    label: 'Corners',
    choices: [
      f('csv', 'CSV table', 'The four corners on every frame; the header says the convention'),
      f('tsv', 'TSV table', 'The same, separated by tabs'),
      f('json', 'Track, JSON', 'Corners, homographies, sigma, trust and evidence'),
    ],
  },
  {
    label: 'Homographies',
    choices: [
      f('homography-csv', 'CSV table', 'A 3x3 matrix a frame'),
      f('homography-json', 'JSON', 'A 3x3 matrix a frame'),
      f('opencv-yaml', 'OpenCV YAML', 'Matrices as OpenCV stores and reads them'),
    ],
  },
  {
    label: 'Maps and mattes',
    choices: [
      f('stmap', 'ST maps', 'Where in the content each pixel comes from; alpha is coverage'),
      f('stmap-inverse', 'ST maps, inverse', 'Where in the plate each place of the content lies'),
      f(
        'lens-undistort',
        'Lens, take the bow out',
        'One ST map that makes the plate straight, where a lens was solved or typed',
      ),
      f('lens-distort', 'Lens, put the bow in', 'One ST map that bows a straight picture as the plate is'),
      f('matte', 'Matte', 'How much of a fill shows, holdouts included'),
    ],
  },
  {
    label: 'Outlines',
    choices: [
      f('shapes-svg', 'Animated SVG', 'Pin, patches and outline holdouts, frame by frame'),
      f('shapes-json', 'JSON', 'The same as numbers'),
    ],
  },
  {
    label: 'Moves',
    choices: [
      f('transform-csv', 'CSV table', 'Position, scale, rotation and affine part; inverted it holds the Screen still'),
      f('transform-json', 'JSON', 'The same as JSON'),
    ],
  },
  {
    label: '3D',
    choices: [
      f('gltf', 'glTF 2.0', 'The fitted pose of the device, with a camera'),
      f('usda', 'OpenUSD text', 'The same for USD'),
    ],
  },
  {
    label: 'Web, edit, paper',
    choices: [
      f('html', 'Web page', 'Plays the track in any browser'),
      f('css', 'CSS keyframes', 'matrix3d, one stepped keyframe a frame'),
      f('otio', 'OpenTimelineIO', 'The shot as an edit, with source timecode'),
      f('report', 'Report', 'Verdicts, worst frames and charts on one page'),
    ],
  },
];
export const MAPS = ['stmap', 'stmap-inverse', 'lens-undistort', 'lens-distort', 'matte'];
export const MAP_TYPES = [
  { value: 'exr', text: 'OpenEXR, 32 bit floats' },
  { value: 'png', text: 'PNG, 16 bit' },
  { value: 'tiff', text: 'TIFF, 16 bit' },
];
export const INVERTIBLE = ['homography-csv', 'homography-json', 'opencv-yaml', 'transform-csv', 'transform-json'];
export const SCENES = ['gltf', 'usda'];
export const MOVES = ['transform-csv', 'transform-json'];
export const NAMES: Readonly<Record<string, string>> = Object.fromEntries([
  ...PICTURES.map((p) => [p.value, p.text]),
  ...DATA.flatMap((g) => g.choices.map((c) => [c.value, `${g.label}: ${c.text}`])),
  ['package', 'Package'],
  ['template', 'Template'],
  ['table', 'Own table'],
]);
/** Coordinates are written into these, so that a convention matters. */
export const CONVENTIONAL = [
  'csv',
  'tsv',
  'json',
  'homography-csv',
  'homography-json',
  'opencv-yaml',
  'shapes-json',
  'transform-csv',
  'transform-json',
  'table',
  'package',
];

export const FIRST_TEMPLATE =
  '# {{screen}}, {{count}} frames of {{plate}}\n{{each frame}}\n{{label}}\t{{tl.x:3}}\t{{tl.y:3}}\t{{tr.x:3}}\t{{tr.y:3}}\t{{br.x:3}}\t{{br.y:3}}\t{{bl.x:3}}\t{{bl.y:3}}\n{{end}}\n';
