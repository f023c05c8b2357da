/** The one stream of the server's events, and the jobs that it tells of. */
import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { api } from '../api';
import type { EventName, EventOf } from '@yarlop/contracts/routes';
import { EVENTS } from '@yarlop/contracts/routes';
import type { Job } from '../types';

/** Ms. */
const ASKED_AGAIN = 1000;

type Listener = (data: never) => void;
const ALL_EVENTS = Object.keys(EVENTS) as EventName[];

/** Who listens to what. */
function listening() {
  const listeners = new Map<EventName, Set<Listener>>();
  const afterBreaks = new Set<() => void>();

  /** @returns what ends the listening */
  function on<E extends EventName>(event: E, listener: (data: EventOf<E>) => void): () => void {
    const set = listeners.get(event) ?? new Set();
    set.add(listener as Listener);
    listeners.set(event, set);
    return () => set.delete(listener as Listener);
  }

  /** Whenever the stream is back after a break: what was told meanwhile is not told anew. @returns what ends the listening */
  function onReconnected(listener: () => void): () => void {
    afterBreaks.add(listener);
    return () => afterBreaks.delete(listener);
  }

  function tell(event: EventName, data: never): void {
    for (const l of listeners.get(event) ?? []) l(data);
  }

  const tellReconnected = (): void => afterBreaks.forEach((l) => l());
  return { on, onReconnected, tell, tellReconnected };
}

interface Hearing {
  readonly heard: (event: EventName, data: never) => void;
  /** @param isBack after a break */
  readonly opened: (isBack: boolean) => void;
  /** @param isGivenUp the browser does not ask again by itself */
  readonly broken: (isGivenUp: boolean) => void;
}

/** @param shot whose solved frames are shown; null for none @param isAgain after a break that the browser gave up at */
function streamOf(shot: number | null, isAgain: boolean, { heard, opened, broken }: Hearing): EventSource {
  const source = new EventSource(shot === null ? '/api/events' : `/api/events?shot=${shot}`);
  for (const event of ALL_EVENTS)
    source.addEventListener(event, (e) => heard(event, JSON.parse((e as MessageEvent<string>).data) as never));
  let isBack = isAgain;
  source.onopen = () => {
    opened(isBack);
    isBack = true;
  };
  source.onerror = () => {
    isBack = true;
    broken(source.readyState === EventSource.CLOSED);
  };
  return source;
}

/** The jobs that are known of, as they were told last. */
function knownJobs() {
  const jobs = ref(new Map<number, Job>());
  const running = computed(() =>
    [...jobs.value.values()].filter((j) => j.state === 'running' || j.state === 'waiting'),
  );
  /** The job of a kind that works on a Screen, or waits to. */
  const jobOf = (kind: Job['kind'], screenId: number | null): Job | undefined =>
    running.value.find((j) => j.kind === kind && j.screenId === screenId);
  const cancel = (id: number): Promise<unknown> => api('POST /jobs/:id/cancel', { id });

  async function reload(): Promise<void> {
    jobs.value = new Map((await api('GET /jobs')).map((j) => [j.id, j]));
  }
  function take(job: Job): void {
    jobs.value.set(job.id, { ...jobs.value.get(job.id), ...job });
  }
  return { jobs, running, jobOf, cancel, reload, take };
}

export const useLive = defineStore('live', () => {
  const { reload, take, ...jobs } = knownJobs();
  const connected = ref(true);
  const { on, onReconnected, tell, tellReconnected } = listening();
  let source: EventSource | null = null;
  let shown: number | null = null;
  /** that the stream has answered, or does not */
  let tried = Promise.resolve();

  function heard(event: EventName, data: never): void {
    if (event === 'job') take(data);
    tell(event, data);
  }

  function listen(shot: number | null, isAgain: boolean): void {
    tried = new Promise((resolve) => {
      source = streamOf(shot, isAgain, {
        heard,
        opened: (isBack) => {
          connected.value = true;
          resolve();
          void reload().catch(() => {});
          if (isBack) tellReconnected();
        },
        broken: (isGivenUp) => {
          connected.value = false;
          resolve();
          if (!isGivenUp) return;
          // It was answered by something that is not this server, or that wants to know who asks: an answer tells.
          void reload().catch(() => {});
          setTimeout(() => again(shot), ASKED_AGAIN);
        },
      });
    });
  }

  function again(shot: number | null): void {
    if (shot === shown && source?.readyState === EventSource.CLOSED) listen(shot, true);
  }

  /** @param shot whose solved frames are shown; null for none */
  function connect(shot: number | null): void {
    if (source && shot === shown) return;
    source?.close();
    shown = shot;
    listen(shot, false);
  }

  function disconnect(): void {
    source?.close();
    [source, connected.value] = [null, true];
  }

  /** What is asked for once the stream is there misses nothing of what is told from then on. */
  const listens = (): Promise<void> => tried;
  return { ...jobs, connected, connect, disconnect, listens, on, onReconnected };
});
