/**
 * The scene as OpenUSD text (`.usda`, the crate-less form): camera and rectangles in metres, y up, a transform per
 * frame; time codes are the shot's own frame labels.
 */
import type { PlateInfo } from '../track';
import type { PosedFrame, Scene } from './scene';

/** A number with ten digits. */
export const n = (v: number): string => String(Number(v.toPrecision(10)));
/** A name that USD takes for a prim, with a number of its own. */
export const identifier = (name: string, i: number): string =>
  `${name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(?=\d)/, '_') || 'Screen'}_${i}`;

/** Row-vector form, as USD writes transforms: the transpose of the column form, translation in the last row. */
function matrix({ pose, translation: t }: PosedFrame): string {
  const r = pose.rotation;
  const up = [r[0]!, -r[1]!, -r[2]!, -r[3]!, r[4]!, r[5]!, -r[6]!, r[7]!, r[8]!];
  return `( (${n(up[0]!)}, ${n(up[3]!)}, ${n(up[6]!)}, 0), (${n(up[1]!)}, ${n(up[4]!)}, ${n(up[7]!)}, 0), (${n(up[2]!)}, ${n(up[5]!)}, ${n(up[8]!)}, 0), (${t.map(n).join(', ')}, 1) )`;
}

/**
 * Tenths of a scene unit, as USD counts apertures; a full-frame width, of which only the ratio to the focal length
 * matters.
 */
export const APERTURE = 36;

/** A scene as text of Universal Scene Description. */
export function writeUsda(plate: PlateInfo, scene: Scene): string {
  const rate = plate.frameRate[0] / plate.frameRate[1];
  const quoted = (s: string): string => JSON.stringify(s);
  const screens = scene.screens.map((s, i) => {
    const w = (s.aspect * s.height) / 2;
    const h = s.height / 2;
    return `    def Mesh "${identifier(s.name, i)}" (
        customData = {
            string name = ${quoted(s.name)}
            double misfitPx = ${n(s.worst)}
        }
    )
    {
        uniform bool doubleSided = 1
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 3, 2, 1]
        point3f[] points = [(${n(-w)}, ${n(h)}, 0), (${n(w)}, ${n(h)}, 0), (${n(w)}, ${n(-h)}, 0), (${n(-w)}, ${n(-h)}, 0)]
        texCoord2f[] primvars:st = [(0, 1), (1, 1), (1, 0), (0, 0)] (
            interpolation = "vertex"
        )
        uniform token subdivisionScheme = "none"
        matrix4d xformOp:transform.timeSamples = {
${s.frames.map((f) => `            ${f.frame + plate.firstFrame}: ${matrix(f)},`).join('\n')}
        }
        uniform token[] xformOpOrder = ["xformOp:transform"]
    }`;
  });
  return `#usda 1.0
(
    defaultPrim = "Shot"
    doc = ${quoted(`${plate.name}: rigid poses fitted to the corners; misfitPx is the farthest that a fitted corner lies from its tracked one. Focal length ${n(scene.focal)} picture widths (${scene.focalFrom}).`)}
    startTimeCode = ${plate.firstFrame}
    endTimeCode = ${plate.firstFrame + plate.frameCount - 1}
    timeCodesPerSecond = ${n(rate)}
    framesPerSecond = ${n(rate)}
    metersPerUnit = 1
    upAxis = "Y"
)

def Xform "Shot"
{
    def Camera "Camera"
    {
        float focalLength = ${n(scene.focal * APERTURE)}
        float horizontalAperture = ${APERTURE}
        float verticalAperture = ${n((APERTURE * scene.height) / scene.width)}
        float2 clippingRange = (0.01, 1000)
        token projection = "perspective"
    }

${screens.join('\n\n')}
}
`;
}
