/** What the server's answers hold, by the names that the page uses. */
import type { Answer, BodyOf } from '@yarlop/contracts/routes';
import type { ScreenFile } from '@yarlop/contracts/validate';

export type Production = Answer<'productionWithCount'>;
export type Probe = Answer<'probe'>;
export type Shot = Answer<'shot'>;
export type ShotSummary = Answer<'shotSummary'>;
export type Board = Answer<'board'>;
export type Told = Answer<'verdict'>;
export type Recipe = ScreenFile;
export type Screen = Answer<'screen'>;
export type SolvedFrame = Answer<'solvedFrame'>;
export type Seen = Answer<'seen'>;
export type ProofView = NonNullable<Answer<'proof'>>;
export type Revision = Answer<'revision'>;
export type TrackView = Answer<'track'>;
export type CameraSettings = Answer<'cameraSettings'>;
export type CameraView = Answer<'cameraView'>;
export type Job = Answer<'jobEvent'>;
export type Media = Answer<'media'>;
export type LibraryItem = Answer<'libraryItem'>;
export type RecentShot = Answer<'recentShot'>;
export type Content = Answer<'content'>;
export type ReviewNote = Answer<'reviewNote'>;
export type NoteState = ReviewNote['state'];
export type Standing = Answer<'standing'>;
export type ProductionNote = Answer<'reviewOfProduction'>[number];
export type Metric = Answer<'metrics'>[number];
export type Delivery = Answer<'delivery'>;
export type ProductionDelivery = Answer<'deliveriesOfProduction'>[number];
export type Binned = Answer<'binned'>;
export type GoesWith = Answer<'goesWith'>;
export type DiskUse = Answer<'disk'>;
export type Snapped = Answer<'snapped'>;
export type FoundPlate = Answer<'foundPlate'>;
export type Queued = Answer<'queued'>;
export type DeliverSettings = BodyOf<'POST /shots/:id/deliveries'>;
export type SetColour = NonNullable<BodyOf<'PUT /shots/:id'>['colour']>;
export type ColourTable = Answer<'colourTable'>;

/** One frame of a spot's own run, a line of its stream. */
export interface SpotWord {
  readonly frame: number;
  readonly at: readonly [number, number] | null;
  readonly sigma: number;
  readonly reason: string | null;
}
