/**
 * Every route that speaks JSON, under `/api`: what it takes and what it answers, by the names of the schemas. The page's
 * client and the tests go by this list.
 */
import type { Answers } from './generated/answers';
import type { Requests } from './generated/requests';
import type { ScreenFile } from './generated/screen';

export type AnswerName = keyof Answers;

/** Who may ask, where an installation has accounts. */
export type Access = 'anyone' | 'person' | 'admin';

interface Route {
  /** of `requests.json`; a recipe or a file's bytes where it is left out beside a POST or PUT */
  readonly body?: keyof Requests;
  /** of `answers.json` */
  readonly answer: AnswerName;
  /** anybody who is signed in where it is left out */
  readonly access?: Access;
}

export const ROUTES = {
  'GET /me': { answer: 'me', access: 'anyone' },
  'PUT /me/password': { body: 'newPassword', answer: 'me' },
  'POST /sign-in': { body: 'signIn', answer: 'me', access: 'anyone' },
  'POST /sign-out': { answer: 'nothing' },
  'POST /sign-out/everywhere': { answer: 'nothing' },
  'POST /invitations/look': { body: 'invitation', answer: 'invitation', access: 'anyone' },
  'POST /invitations': { body: 'join', answer: 'me', access: 'anyone' },
  'GET /people': { answer: 'people', access: 'admin' },
  'POST /people': { body: 'invite', answer: 'invited', access: 'admin' },
  'PUT /people/:id': { body: 'personPart', answer: 'person', access: 'admin' },
  'POST /people/:id/link': { answer: 'invited', access: 'admin' },

  'GET /health': { answer: 'health', access: 'anyone' },
  'GET /disk': { answer: 'disk' },
  'GET /metrics': { answer: 'metrics' },

  'GET /productions': { answer: 'productions' },
  'POST /productions': { body: 'production', answer: 'production' },
  'GET /productions/:id': { answer: 'board' },
  'PUT /productions/:id': { body: 'production', answer: 'production' },
  'DELETE /productions/:id': { answer: 'nothing' },
  'GET /productions/:id/library': { answer: 'library' },
  'POST /productions/:id/replace': { body: 'replaceFill', answer: 'replaced' },
  'GET /productions/:id/review': { answer: 'reviewOfProduction' },
  'GET /productions/:id/deliveries': { answer: 'deliveriesOfProduction' },
  'GET /productions/:id/contents': { answer: 'contents' },
  'POST /productions/:id/contents': { body: 'content', answer: 'content' },
  'POST /productions/:id/shots': { body: 'shot', answer: 'shot' },
  'POST /productions/:id/templates': { body: 'takeTemplate', answer: 'shot' },

  'GET /shots/recent': { answer: 'recentShots' },
  'GET /shots/:id': { answer: 'openShot' },
  'PUT /shots/:id': { body: 'shotRecipe', answer: 'shot' },
  'DELETE /shots/:id': { answer: 'nothing' },
  'GET /shots/:id/verdicts': { answer: 'verdicts' },
  'PUT /shots/:id/depth': { body: 'depth', answer: 'screens' },
  'POST /shots/:id/screens': { answer: 'screen' },
  'POST /shots/:id/loop': { body: 'findLoop', answer: 'loop' },
  'GET /shots/:id/proposals/:frame': { answer: 'proposals' },
  'POST /shots/:id/relink': { body: 'relink', answer: 'relinked' },
  'POST /shots/:id/import': { body: 'importTrack', answer: 'imported' },
  'POST /shots/:id/text': { body: 'deliver', answer: 'text' },
  'GET /shots/:id/deliveries': { answer: 'deliveries' },
  'POST /shots/:id/deliveries': { body: 'deliver', answer: 'delivery' },
  'GET /shots/:id/camera': { answer: 'cameraView' },
  'PUT /shots/:id/camera': { body: 'solveCamera', answer: 'cameraSettings' },
  'POST /shots/:id/camera': { body: 'solveCamera', answer: 'job' },
  'GET /shots/:id/review': { answer: 'review' },
  'PUT /shots/:id/review': { body: 'standing', answer: 'review' },
  'POST /shots/:id/review': { body: 'reviewNote', answer: 'reviewNote' },

  'GET /contents/:id': { answer: 'content' },
  'PUT /contents/:id': { body: 'contentPart', answer: 'content' },
  'DELETE /contents/:id': { answer: 'nothing' },
  'POST /contents/:id/show': { answer: 'replaced' },

  'PUT /review/:id': { body: 'reviewPart', answer: 'reviewNote' },
  'DELETE /review/:id': { answer: 'nothing' },

  'GET /screens/:id': { answer: 'screen' },
  'PUT /screens/:id': { answer: 'screen' },
  'DELETE /screens/:id': { answer: 'nothing' },
  'GET /screens/:id/track': { answer: 'track' },
  'GET /screens/:id/seen/:frame': { answer: 'seen' },
  'GET /screens/:id/revisions': { answer: 'revisions' },
  'GET /screens/:id/revisions/:revision': { answer: 'revisionWithRecipe' },
  'POST /screens/:id/prove': { answer: 'job' },
  'GET /screens/:id/proof': { answer: 'proof' },
  'POST /screens/:id/slip': { body: 'slip', answer: 'proofFrame' },
  'POST /screens/:id/cut': { body: 'cut', answer: 'nothing' },
  'POST /screens/:id/snap': { body: 'snap', answer: 'snapped' },
  'POST /screens/:id/follow': { body: 'follow', answer: 'job' },

  'GET /media': { answer: 'mediaList' },
  'POST /media': { body: 'fill', answer: 'media' },
  'GET /media/:hash': { answer: 'media' },
  'PUT /media/:hash': { body: 'mediaWords', answer: 'media' },
  'POST /media/:hash/anew': { answer: 'nothing' },

  'GET /tables': { answer: 'colourTables' },
  'POST /tables': { answer: 'colourTable' },

  'GET /jobs': { answer: 'jobs' },
  'GET /jobs/queue': { answer: 'queue' },
  'PUT /jobs/queue': { body: 'queue', answer: 'queue' },
  'POST /jobs/:id/pause': { answer: 'job' },
  'POST /jobs/:id/resume': { answer: 'job' },
  'POST /jobs/:id/cancel': { answer: 'job' },

  'DELETE /deliveries/:id': { answer: 'nothing' },

  'GET /bin': { answer: 'bin' },
  'DELETE /bin': { answer: 'emptied', access: 'admin' },
  'GET /bin/:kind/:key': { answer: 'goesWith' },
  'PUT /bin/:kind/:key': { answer: 'nothing' },
  'POST /bin/:kind/:key/out': { answer: 'nothing' },
  'DELETE /bin/:kind/:key': { answer: 'nothing', access: 'admin' },
} as const satisfies Readonly<Record<string, Route>>;

export type RouteName = keyof typeof ROUTES;

/** Nobody changes what was told; a recipe is a document of its own, which whoever edits it copies. */
type Told<T> = T extends ScreenFile ? T : T extends object ? { readonly [K in keyof T]: Told<T[K]> } : T;

/** Of a list, what the schema asks of its length is checked where it arrives; fixed lengths are part of the type. */
type Sent<T> = T extends readonly (infer E)[]
  ? number extends T['length']
    ? readonly Sent<E>[]
    : { readonly [K in keyof T]: Sent<T[K]> }
  : T extends object
    ? { readonly [K in keyof T]: Sent<T[K]> }
    : T;

/** What the server says under a name of `answers.json`. */
export type Answer<N extends AnswerName> = Told<Answers[N]>;

/** What a route answers. */
export type AnswerOf<R extends RouteName> = Answer<(typeof ROUTES)[R]['answer']>;

/** What a route takes; anything where the list names no schema. */
export type BodyOf<R extends RouteName> = (typeof ROUTES)[R] extends { readonly body: infer B extends keyof Requests }
  ? Sent<NonNullable<Requests[B]>>
  : unknown;

type ParametersIn<Path extends string> = Path extends `${string}:${infer Name}/${infer Rest}`
  ? Name | ParametersIn<`/${Rest}`>
  : Path extends `${string}:${infer Name}`
    ? Name
    : never;

/** The variable parts of a route's address. */
export type ParametersOf<R extends RouteName> = Readonly<Record<ParametersIn<R>, string | number>>;

/** The route that an address belongs to; null where it is none of the list. @param path under `/api`, without a query */
export function routeOf(method: string, path: string): RouteName | null {
  const parts = path.split('/');
  const isIt = (route: string): boolean => {
    const [verb, pattern] = route.split(' ') as [string, string];
    const own = pattern.split('/');
    return verb === method && own.length === parts.length && own.every((p, i) => p.startsWith(':') || p === parts[i]);
  };
  const all = Object.keys(ROUTES) as RouteName[];
  // An address without a variable part is told before one that would take it as such.
  return all.filter(isIt).sort((a, b) => a.split(':').length - b.split(':').length)[0] ?? null;
}

/** What the stream of events tells, by the names of the schemas. */
export const EVENTS = {
  /** how a job stands, or a part of it */
  job: 'jobEvent',
  /** frames that were solved */
  frames: 'framesEvent',
  /** of a camera's run */
  points: 'pointsEvent',
  /** a shot's camera was solved */
  camera: 'shotEvent',
  /** a clip was read in */
  media: 'mediaEvent',
  bin: 'nothingEvent',
  /** a recipe was saved */
  screen: 'screenEvent',
  queue: 'nothingEvent',
  deliveries: 'shotEvent',
  /** a note, or how the shot stands */
  review: 'shotEvent',
} as const satisfies Readonly<Record<string, AnswerName>>;

export type EventName = keyof typeof EVENTS;
export type EventOf<E extends EventName> = Answer<(typeof EVENTS)[E]>;

/**
 * Who may ask for an address: a person where it is none of the list. Capitals and a slash at the end make no other address
 * of it, as the web framework has it.
 */
export function accessOf(method: string, path: string): Access {
  const plain = path.toLowerCase().replace(/\/+$/, '');
  const route = routeOf(method === 'HEAD' ? 'GET' : method, plain);
  const listed: Route | null = route && ROUTES[route];
  return listed?.access ?? 'person';
}
