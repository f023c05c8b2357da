/**
 * An edit of the shot as OpenTimelineIO JSON: plate, element and finished picture as clips on tracks of their own, with
 * source timecode as the start of what is available. Schema names and versions as OpenTimelineIO 0.15 publishes them
 * (Timeline.1, Stack.1, Track.1, Clip.2, ExternalReference.1, RationalTime.1, TimeRange.1).
 */
import type { PlateInfo } from '../track';

export interface OtioClip {
  readonly name: string;
  /** file, relative to the .otio */
  readonly path: string | null;
  /** first frame and number of frames within the file */
  readonly available: readonly [start: number, duration: number];
  readonly used: readonly [start: number, duration: number];
}

const rateOf = (p: PlateInfo): number => p.frameRate[0] / p.frameRate[1];
const time = (value: number, rate: number): object => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
const range = ([start, duration]: readonly [number, number], rate: number): object => ({
  OTIO_SCHEMA: 'TimeRange.1',
  duration: time(duration, rate),
  start_time: time(start, rate),
});

function clip(c: OtioClip, rate: number): object {
  const reference =
    c.path === null
      ? {
          OTIO_SCHEMA: 'MissingReference.1',
          metadata: {},
          name: '',
          available_range: range(c.available, rate),
          available_image_bounds: null,
        }
      : {
          OTIO_SCHEMA: 'ExternalReference.1',
          metadata: {},
          name: '',
          available_range: range(c.available, rate),
          available_image_bounds: null,
          target_url: c.path.split('/').map(encodeURIComponent).join('/'),
        };
  return {
    OTIO_SCHEMA: 'Clip.2',
    metadata: {},
    name: c.name,
    source_range: range(c.used, rate),
    effects: [],
    markers: [],
    enabled: true,
    media_references: { DEFAULT_MEDIA: reference },
    active_media_reference_key: 'DEFAULT_MEDIA',
  };
}

/** @param clips bottom to top, one track each. Times are whole frames of the plate's rate, so that they are exact */
export function writeOtio(plate: PlateInfo, clips: readonly OtioClip[], startTime: number): string {
  const rate = rateOf(plate);
  const children = clips.map((c) => ({
    OTIO_SCHEMA: 'Track.1',
    metadata: {},
    name: c.name,
    source_range: null,
    effects: [],
    markers: [],
    enabled: true,
    kind: 'Video',
    children: [clip(c, rate)],
  }));
  return `${JSON.stringify(
    {
      OTIO_SCHEMA: 'Timeline.1',
      metadata: { yarlop: { plate: plate.name, frameRate: plate.frameRate } },
      name: plate.name,
      global_start_time: time(startTime, rate),
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        metadata: {},
        name: 'tracks',
        source_range: null,
        effects: [],
        markers: [],
        enabled: true,
        children,
      },
    },
    null,
    2,
  )}\n`;
}
