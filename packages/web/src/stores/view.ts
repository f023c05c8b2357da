/** How the picture is looked at: never what is computed from it. */
import { useStorage } from '@vueuse/core';
import type { CardKind } from '@yarlop/core/proof/proof-card';
import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import type { Rectangle, SeenPicture, ViewShow } from '../shared/picture-request';
import type { Channel } from '../shared/view-aid';
import { PLAIN } from '../shared/view-aid';

/**
 * How a track is looked at in Prove: the card in its place, the Screen laid flat, a line of it over time, curves, or the
 * scene from outside.
 */
export type Look = 'card' | 'flat' | 'slit' | 'curves' | 'room';
/** What a close-up shows: the frame, its likeness, half and half, what differs, or one after the other. */
export type Compare = 'now' | 'likeness' | 'halves' | 'difference' | 'blink';

/** What is pinned in to judge a track by: a drawn card, the Screen's own fill, or a file of one's own. */
export type ProofPicture = CardKind | 'fill' | 'own';

export type Repairs = 'all' | 'but-last' | 'none';

/** What the pointer does on the picture. */
export type Tool =
  | { readonly kind: 'select' }
  | { readonly kind: 'drop-corners' }
  | {
      readonly kind: 'draw-patch';
      readonly patch: 'follow' | 'ignore' | 'holdout' | 'grade' | 'paint-out' | 'cut' | 'carried';
    }
  | {
      readonly kind: 'sample';
      /** what the person is to click, as a sentence */
      readonly asks: string;
      /** @param rgb code values of the plate, 0 to 255 */
      readonly take: (rgb: readonly number[]) => void;
    }
  | { readonly kind: 'add-spot' }
  /** strokes for the note that is being written */
  | { readonly kind: 'draw-note' }
  /** the box whose values are read out */
  | { readonly kind: 'measure-box' }
  /** choose points of the scene by a box; lay a Screen on a surface of it by a click */
  | { readonly kind: 'box-points' }
  | { readonly kind: 'place-surface' };

export const useView = defineStore('view', () => {
  /** CSS px per plate px; 0 fits */
  const zoom = ref(0);
  /** plate position in the middle of the view */
  const centre = ref<[number, number]>([0, 0]);
  const brighten = ref(PLAIN.brighten);
  const contrast = ref(PLAIN.contrast);
  const gamma = ref(PLAIN.gamma);
  const channel = ref<Channel>(PLAIN.channel);
  const edges = ref(PLAIN.edges);
  /** of the picture's width, at which the dressed picture meets the plate; null without the divider */
  const wipe = ref<number | null>(null);
  /** CSS px per plate px in the close-ups; and whether they are smoothed */
  const closeUp = ref(useStorage('yarlop.close-up', 8));
  const smooth = ref(useStorage('yarlop.smooth', false));
  const ruling = ref(useStorage('yarlop.ruling', false));
  const rulingParts = ref(useStorage('yarlop.ruling-parts', 4));
  const rulingExtent = ref(useStorage('yarlop.ruling-extent', 1));
  const horizon = ref(useStorage('yarlop.horizon', false));
  const surround = ref(useStorage('yarlop.surround', 10));
  /** code value of white in read-outs */
  const white = ref(useStorage('yarlop.white', 255));
  const theme = ref(useStorage<'dark' | 'light'>('yarlop.theme', 'dark'));
  /** what the frame was followed by, on the picture */
  const cells = ref(useStorage('yarlop.cells', true));
  const look = ref<Look>('card');
  const card = ref(useStorage<ProofPicture>('yarlop.card', 'survey'));
  /** hash of the file that serves as a card of one's own; '' before one is chosen */
  const ownCard = ref(useStorage('yarlop.own-card', ''));
  const cardOpacity = ref(useStorage('yarlop.card-opacity', 1));
  const compare = ref<Compare>('now');
  const blinkRate = ref(useStorage('yarlop.blink', 2));
  /** the corner board takes the picture's place */
  const boardLarge = ref(false);
  /** the board is called up in a stage whose bench does not hold it */
  const boardCalled = ref(false);
  /** what moving a corner changes: the pin, or a touch-up on the frame shown */
  const moves = ref<'pin' | 'touch-up'>('pin');
  /** what is seen of a dress */
  const show = ref<ViewShow>('dressed');
  /** hash of a colour table that everything is looked at through; no pixel that is used goes through it */
  const table = ref<string | null>(null);
  /** plate and dressed picture stand beside each other */
  const beside = ref(false);
  /** corners that are looked at before they are taken, by frame */
  const ghosts = shallowRef<
    readonly { readonly frame: number; readonly corners: readonly (readonly [number, number])[] }[]
  >([]);
  /** the picture as it is shown, for scopes */
  const seen = shallowRef<SeenPicture | null>(null);
  /** how handles of a bend move: along with the opposite side, held to an axis, and setting keys */
  const bendLinked = ref(false);
  const bendAxis = ref<'free' | 'across' | 'along'>('free');
  const bendKeyed = ref(false);
  /** plate and dressed picture take turns */
  const blinking = ref(false);
  /** which corrections show, to compare before and after: all, all but the last repair, or none (as followed) */
  const repairs = ref<Repairs>('all');
  const lanes = ref(useStorage('yarlop.lanes', false));
  const spot = ref<number | null>(null);
  const alone = ref(false);
  const plateOnly = ref(false);
  const tool = ref<Tool>({ kind: 'select' });
  /** corner that arrow keys nudge; null lets them step frames */
  const armed = ref<number | null>(null);
  /** the pin is taken as a whole: arrows and its handles move, turn and scale it */
  const whole = ref(false);
  watch(armed, (corner) => {
    if (corner !== null) whole.value = false;
  });
  /** the fill is placed by handles on the picture; arrows move it */
  const placing = ref(false);
  watch([armed, whole], ([corner, pin]) => {
    if (corner !== null || pin) placing.value = false;
  });
  const helpOpen = ref(false);
  /** the view aid's controls stand beside the picture */
  const aidOpen = ref(false);
  /** a corner of a pin is being dragged */
  const dragging = ref(false);
  /** the part of the picture whose values are read out, plate px */
  const box = ref<Rectangle | null>(null);
  /** where the pointer is, plate px, and the pixel there: as it is shown, and the plate's where something is laid over it */
  const pointer = ref<{
    x: number;
    y: number;
    rgb: readonly number[] | null;
    plate: readonly number[] | null;
  } | null>(null);
  /** Lets the person click a colour of the bare plate. @param asks what to click, a sentence */
  function sample(asks: string, take: (rgb: readonly number[]) => void): void {
    plateOnly.value = true;
    tool.value = {
      kind: 'sample',
      asks,
      take: (rgb) => {
        plateOnly.value = false;
        tool.value = { kind: 'select' };
        take(rgb);
      },
    };
  }
  return {
    zoom,
    centre,
    closeUp,
    smooth,
    brighten,
    contrast,
    gamma,
    channel,
    edges,
    wipe,
    look,
    card,
    ownCard,
    cardOpacity,
    compare,
    blinkRate,
    boardLarge,
    boardCalled,
    moves,
    blinking,
    repairs,
    show,
    table,
    beside,
    ghosts,
    seen,
    bendLinked,
    bendAxis,
    bendKeyed,
    lanes,
    ruling,
    rulingParts,
    rulingExtent,
    horizon,
    cells,
    spot,
    surround,
    white,
    theme,
    alone,
    plateOnly,
    tool,
    sample,
    armed,
    whole,
    placing,
    helpOpen,
    aidOpen,
    dragging,
    box,
    pointer,
  };
});
