import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { ErrorRequestHandler, Express, RequestHandler } from 'express';
import express from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { ApiError, refusalOf } from './api-error';
import type { Context } from './context';
import type { Runner } from './runner';
import { aboutRoutes, metricsRoute } from './routes/about';
import { binRoutes, diskRoutes } from './routes/bin';
import { colourTableRoutes } from './routes/colour-tables';
import { deliveryRoutes } from './routes/deliveries';
import { gate } from './gate';
import { jobRoutes } from './routes/jobs';
import { mediaRoutes, pictureRoutes } from './routes/media';
import { invitationRoutes, peopleRoutes, signInRoutes } from './routes/people';
import { productionRoutes } from './routes/productions';
import { contentRoutes } from './routes/contents';
import { noteRoutes } from './routes/review';
import { screenRoutes } from './routes/screens';
import { shotRoutes } from './routes/shots';
import { UPLOAD_PATH, uploadServer } from './routes/uploads';
import { Metrics } from './metrics';
import { requestLog } from './request-log';
import { knowVisitors, visitorOf } from './visitor';

/**
 * Only pages of this server may talk to it: names that resolve here by trickery, and other origins, are turned away.
 */
function sameOrigin(names: readonly string[]): RequestHandler {
  const hosts = new Set(names);
  return (req, _res, next) => {
    const host = req.headers.host ?? '';
    const origin = req.headers.origin;
    if (!hosts.has(host))
      return next(new ApiError(421, 'host', `This server does not answer for "${host.slice(0, 80)}".`));
    const isReading = req.method === 'GET' || req.method === 'HEAD';
    const isForeign = origin !== undefined && !hosts.has(origin.replace(/^https?:\/\//, ''));
    // What a browser says of a request by itself, where no origin comes: W3C Fetch Metadata Request Headers, section 2.3.
    const isFromElsewhere = ['cross-site', 'same-site'].includes(String(req.headers['sec-fetch-site'] ?? ''));
    if (!isReading && (isForeign || isFromElsewhere))
      return next(new ApiError(403, 'origin', 'Changes are taken only from pages of this server.'));
    next();
  };
}

interface HttpError extends Error {
  readonly type?: string;
  readonly status?: number;
}

/** What is wrong with a request that the ways to here refused, by status; all others are malformed. */
const REFUSED: Readonly<Record<number, string>> = {
  404: 'There is nothing at this address.',
  413: 'The request is too large. Nothing was saved.',
  415: 'The request comes in a form that is not read here; send JSON in UTF-8.',
  416: 'That part of the file does not exist.',
};
const MALFORMED = 'The request is malformed; nothing was changed.';

/** A fault of the request itself, as the web framework told it: an undecodable path, a foreign encoding, a wrong range. */
function fromHttp({ status }: HttpError): ApiError | null {
  if (status === undefined || status < 400 || status >= 500) return null;
  return new ApiError(status, status === 404 ? 'not-found' : 'invalid', REFUSED[status] ?? MALFORMED);
}

/** Codes of a database that is down, starting, or standing still. */
const DATABASE_GONE = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'ER_SERVER_SHUTDOWN',
  'DATABASE_SILENT',
]);

function toApiError(e: unknown): ApiError | null {
  const refused = refusalOf(e);
  if (refused) return refused;
  const { type } = e as HttpError;
  if (type === 'entity.too.large')
    return new ApiError(
      413,
      'too-large',
      'The request is too large (2 MB for a recipe, 15 MB for a colour table, 60 MB for a track). Nothing was saved.',
    );
  if (type === 'entity.parse.failed') return new ApiError(400, 'invalid', 'The request is not valid JSON.');
  if (DATABASE_GONE.has((e as NodeJS.ErrnoException).code ?? ''))
    return new ApiError(
      503,
      'database',
      'The database does not answer; your edits are kept here and saved when it is back.',
    );
  return fromHttp(e as HttpError);
}

/** Requests of one visitor in that time; scrubbing asks for some hundred frames a second. By trial. */
const MOST_REQUESTS = { windowMs: 10_000, limit: 3000 };

/** What a page may load and do: nothing from elsewhere. */
const CONTENT_POLICY = {
  defaultSrc: ["'self'"],
  scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
  styleSrc: ["'self'", "'unsafe-inline'"],
  imgSrc: ["'self'", 'blob:', 'data:'],
  workerSrc: ["'self'", 'blob:'],
  connectSrc: ["'self'"],
  fontSrc: ["'self'", 'data:'],
  objectSrc: ["'none'"],
  baseUri: ["'none'"],
  frameAncestors: ["'none'"],
  formAction: ["'self'"],
};

/** Who may ask, from where, and how often. @param visitors see `visitorKey` */
function useGuards(app: Express, c: Context, visitors: string): void {
  const contentSecurityPolicy = { useDefaults: false, directives: CONTENT_POLICY };
  app.use(helmet({ contentSecurityPolicy, strictTransportSecurity: false }));
  app.use(sameOrigin(c.config.names));
  app.use(knowVisitors(visitors));
  app.use(
    '/api',
    rateLimit({
      ...MOST_REQUESTS,
      keyGenerator: visitorOf,
      standardHeaders: 'draft-8',
      legacyHeaders: false,
      message: { code: 'busy', message: 'Too many requests; wait a few seconds.' },
    }),
  );
  app.use(['/api', '/metrics'], gate(c));
}

function useApi(app: Express, c: Context, runner: Runner, metrics: Metrics): void {
  const uploads = uploadServer(c);
  app.all([UPLOAD_PATH, `${UPLOAD_PATH}/{*any}`], (req, res) => void uploads.handle(req, res));
  app.get('/api/events', (req, res) => c.events.connect(req, res));
  app.use(metricsRoute(c, runner, metrics));
  app.use('/api', aboutRoutes(c, runner, metrics));
  app.use('/api/tables', colourTableRoutes(c));
  // As bytes: they are read in a thread of their own.
  app.use('/api/shots/:id/import', express.raw({ type: 'application/json', limit: '60mb' }));
  app.use('/api', express.json({ limit: '2mb' }));
  app.use('/api', signInRoutes(c));
  app.use('/api/invitations', invitationRoutes(c));
  app.use('/api/people', peopleRoutes(c));
  app.use('/api/productions', productionRoutes(c));
  app.use('/api/shots', shotRoutes(c));
  app.use('/api/screens', screenRoutes(c));
  app.use('/api/review', noteRoutes(c));
  app.use('/api/contents', contentRoutes(c));
  app.use('/api/media', mediaRoutes(c), pictureRoutes(c));
  app.use('/api/jobs', jobRoutes(c, runner));
  app.use('/api/deliveries', deliveryRoutes(c));
  app.use('/api/bin', binRoutes(c));
  app.use('/api/disk', diskRoutes(c));
  app.use('/api', (_req, _res, next) => next(new ApiError(404, 'not-found', 'There is nothing at this address.')));
}

/** The pages, as far as they were built. */
function usePages(app: Express, { config }: Context): void {
  if (!existsSync(config.web)) return;
  const cacheOf = (path: string): string =>
    path.includes('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache';
  app.use(
    express.static(config.web, {
      index: false,
      setHeaders: (res, path) => res.setHeader('Cache-Control', cacheOf(path)),
    }),
  );
  app.get('/{*any}', (_req, res) => res.sendFile(join(config.web, 'index.html')));
}

/** Every failure as a code and a sentence; what nobody knows goes into the log. */
function failures(log: Logger): ErrorRequestHandler {
  return (e, req, res, next) => {
    const known = toApiError(e);
    if (!known) log.error({ err: e as unknown, request: req.id }, `${req.method} ${req.path} failed`);
    if (res.headersSent) return next(e);
    const unknown = `Something went wrong in the server; its log says more under ${String(req.id)}. Nothing was changed.`;
    const { status, code, message, details } = known ?? new ApiError(500, 'internal', unknown);
    res
      .status(status)
      .set('Cache-Control', 'no-store')
      .json({ code, message, ...(details === undefined ? {} : { details }) });
  };
}

/** @param visitors see `visitorKey` */
export function createApp(c: Context, runner: Runner, log: Logger, visitors: string): Express {
  const app = express().disable('x-powered-by');
  const metrics = new Metrics();
  app.use(requestLog(log), metrics.observe);
  useGuards(app, c, visitors);
  useApi(app, c, runner, metrics);
  usePages(app, c);
  return app.use(failures(log));
}
