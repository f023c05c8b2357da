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

  /** Whenever the stream is there (again): what was told meanwhile is not told anew. @returns what ends the listening */
  function onConnected(listener: () => void): () => void {
    afterBreaks.add(listener);
    return () => afterBreaks.delete(listener);
  }

  function tell(event: EventName, data: never): void {
    for (const l of listeners.get(event) ?? []) l(data);
  }

  const tellConnected = (): void => afterBreaks.forEach((l) => l());
  return { on, onConnected, tell, tellConnected };
}

export const useLive = defineStore('live', () => {
  const jobs = ref(new Map<number, Job>());
  const connected = ref(true);
  const { on, onConnected, tell, tellConnected } = listening();
  let source: EventSource | null = null;
  let shown: number | null = null;

  async function reload(): Promise<void> {
    jobs.value = new Map((await api('GET /jobs')).map((j) => [j.id, j]));
  }

  /** @param shot whose solved frames are shown; null for none */
  function connect(shot: number | null): void {
    if (source && shot === shown) return;
    source?.close();
    shown = shot;
    source = new EventSource(shot === null ? '/api/events' : `/api/events?shot=${shot}`);
    for (const event of ALL_EVENTS)
      source.addEventListener(event, (e) => {
        const data = JSON.parse((e as MessageEvent<string>).data) as never;
        if (event === 'job')
          jobs.value.set((data as Job).id, { ...jobs.value.get((data as Job).id), ...(data as Job) });
        tell(event, data);
      });
    source.onopen = () => {
      connected.value = true;
      void reload().catch(() => {});
      tellConnected();
    };
    source.onerror = () => {
      connected.value = false;
      // A browser asks again by itself, unless it was answered by something that is not this server.
      if (source?.readyState === EventSource.CLOSED) setTimeout(() => again(shot), ASKED_AGAIN);
    };
  }

  function again(shot: number | null): void {
    if (shot !== shown || source?.readyState !== EventSource.CLOSED) return;
    source = null;
    connect(shot);
  }

  const running = computed(() =>
    [...jobs.value.values()].filter((j) => j.state === 'running' || j.state === 'waiting'),
  );
  /** The job of a kind that works on a Screen, or waits to. */
  const jobOf = (kind: Job['kind'], screenId: number | null): Job | undefined =>
    running.value.find((j) => j.kind === kind && j.screenId === screenId);
  const cancel = (id: number): Promise<unknown> => api('POST /jobs/:id/cancel', { id });
  return { jobs, running, jobOf, connected, connect, on, onConnected, cancel };
});
