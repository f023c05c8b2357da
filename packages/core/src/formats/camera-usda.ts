/**
 * A solved camera as OpenUSD text (`.usda`): the camera with a transform a frame and its focal length, the scene's points,
 * and planes of Screens; time codes are the shot's own frame labels.
 */
import type { CameraFile, CameraFileFrame, ScenePlane } from '../camera/camera-file';
import { matrixOf } from '../geometry/quaternion';
import { isZoom, lensNote, usualFocal } from './camera-scene';
import { APERTURE, identifier, n } from './usda';

const triple = (v: readonly number[]): string => `(${v.map(n).join(', ')})`;

/** Row-vector form, as USD writes transforms: the transpose of the column form, translation in the last row. */
function transformOf({ position, rotation }: CameraFileFrame): string {
  const m = matrixOf(rotation);
  const rows = [0, 1, 2].map((c) => `(${[0, 1, 2].map((r) => n(m[3 * r + c]!)).join(', ')}, 0)`);
  return `( ${rows.join(', ')}, (${position.map(n).join(', ')}, 1) )`;
}

const samples = (file: CameraFile, of: (f: CameraFileFrame) => string): string =>
  file.frames.map((f) => `            ${f.frame + file.plate.firstFrame}: ${of(f)},`).join('\n');

function focalText(file: CameraFile): string {
  const { width } = file.plate;
  const of = (focal: number): string => n((focal / width) * APERTURE);
  if (!isZoom(file)) return `        float focalLength = ${of(usualFocal(file))}`;
  return `        float focalLength.timeSamples = {\n${samples(file, (f) => of(f.focal))}\n        }`;
}

function planeText({ screen, corners }: ScenePlane, i: number): string {
  return `    def Mesh "${identifier(screen, i)}" (
        customData = {
            string name = ${JSON.stringify(screen)}
        }
    )
    {
        uniform bool doubleSided = 1
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 3, 2, 1]
        point3f[] points = [${corners.map(triple).join(', ')}]
        texCoord2f[] primvars:st = [(0, 1), (1, 1), (1, 0), (0, 0)] (
            interpolation = "vertex"
        )
        uniform token subdivisionScheme = "none"
    }`;
}

/** @param metres of a unit of the scene; 1 where its size is not known */
export function writeCameraUsda(file: CameraFile, metres = 1): string {
  const { plate, points } = file;
  const rate = n(plate.frameRate[0] / plate.frameRate[1]);
  return `#usda 1.0
(
    defaultPrim = "Shot"
    doc = ${JSON.stringify(`${plate.name}: ${lensNote(file)}`)}
    startTimeCode = ${plate.firstFrame}
    endTimeCode = ${plate.firstFrame + plate.frameCount - 1}
    timeCodesPerSecond = ${rate}
    framesPerSecond = ${rate}
    metersPerUnit = ${n(metres)}
    upAxis = "Y"
)

def Xform "Shot"
{
    def Camera "Camera"
    {
${focalText(file)}
        float horizontalAperture = ${APERTURE}
        float verticalAperture = ${n((APERTURE * plate.height) / plate.width)}
        float2 clippingRange = (0.001, 10000)
        token projection = "perspective"
        matrix4d xformOp:transform.timeSamples = {
${samples(file, transformOf)}
        }
        uniform token[] xformOpOrder = ["xformOp:transform"]
    }

    def Points "Points"
    {
        point3f[] points = [${points.map((p) => triple(p.position)).join(', ')}]
        float[] widths = [0.01] (
            interpolation = "constant"
        )
        int64[] ids = [${points.map((p) => p.id).join(', ')}]
    }
${file.planes.map((p, i) => `\n${planeText(p, i)}\n`).join('')}}
`;
}
