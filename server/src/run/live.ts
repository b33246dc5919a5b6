/** Between the pages' WebSocket and the run thread: checks what pages ask, keeps the run log, tells everybody. */
import { randomUUID } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import type { FastifyInstance } from 'fastify';
import type { WebSocket } from 'ws';
import {
  BEAT_MS,
  clientMessage,
  type ClientMessage,
  contractFindings,
  idleStatus,
  isActive,
  type PageName,
  type ServerMessage,
  type Status,
} from '@cork-elbow/core/contract';
import { info } from '@cork-elbow/core/catalogue';
import { faultsOf } from '@cork-elbow/core/findings';
import { apiError, ApiError, faulted } from '../errors';
import type { Shelf } from '../shelf';
import { fate } from './backlog';
import type { Network } from '../network/network';
import { Control, mayWatch } from './control';
import type { LoopEvent } from './events';
import { RunKeeper } from './keeper';
import type { WorkerRequest } from './worker';

export interface Live {
  /** Id of the rig that runs, and of the run; null while nothing does. */
  readonly runs: string | null;
  readonly runId: string | null;
  close(): Promise<void>;
}

/** `version`: of the program. */
export function live(app: FastifyInstance, shelf: Shelf, network: Network, workerUrl: URL, version: string): Live {
  /** Who each is; by a name of ours until it has said its own. */
  const pages = new Map<WebSocket, PageName>();
  /** Of pages of the network: the device that each is on. */
  const devices = new Map<WebSocket, string>();
  /** Pages that hear what goes over the lines. */
  const listeners = new Set<WebSocket>();
  const control = new Control();
  const worker = new Worker(workerUrl);
  let status: Status = { ...idleStatus };
  const ask = (request: WorkerRequest): void => worker.postMessage(request);
  const tell = (page: WebSocket, message: ServerMessage, text?: string): void => {
    const what = fate(message.type, page.bufferedAmount);
    if (what === 'drop') page.terminate();
    if (what === 'send') page.send(text ?? JSON.stringify(message));
  };
  const tellAll = (message: ServerMessage): void => {
    const text = JSON.stringify(message);
    pages.forEach((_, page) => tell(page, message, text));
  };
  // Nobody has the controls of what is not connected.
  const statusNow = (): ServerMessage => ({
    type: 'status',
    status: { ...status, control: status.link === 'absent' ? null : control.holder },
  });
  const keeper = new RunKeeper(
    shelf.store,
    version,
    (error) => app.log.error(error),
    (message) => tellAll({ type: 'refused', code: 'recording-stopped', message, findings: [] }),
  );
  const pinging = setInterval(() => tellAll({ type: 'ping' }), BEAT_MS);

  /** What a page may do. */
  const tellRight = (page: WebSocket): void => {
    const device = devices.get(page) ?? null;
    const right = network.rightOf(device);
    if (right === null || (device !== null && !network.isOpen)) return page.terminate();
    tell(page, { type: 'right', right, device: device === null ? '' : network.nameOf(device) });
  };
  network.onChanged = (id) => devices.forEach((device, page) => device === id && tellRight(page));

  worker.on('message', (event: LoopEvent) => {
    switch (event.type) {
      case 'status':
        status = event.status;
        if (status.link === 'absent') control.holder = null;
        return tellAll(statusNow());
      case 'telemetry':
        return tellAll({ type: 'telemetry', ...event.telemetry });
      case 'lines': {
        const text = JSON.stringify(event satisfies ServerMessage);
        listeners.forEach((page) => tell(page, event, text));
        return;
      }
      case 'refused': {
        const remedy = info(event.code)?.remedy;
        return tellAll({
          type: 'refused',
          code: event.code,
          message: event.message,
          ...(remedy ? { remedy } : {}),
          findings: event.findings,
        });
      }
      case 'started':
        return keeper.began(event);
      case 'recorded':
        return keeper.recorded(event);
      case 'ended':
        return keeper.ended(event);
    }
  });
  worker.on('error', (error) => {
    app.log.error(error);
    status = { ...idleStatus, link: 'lost', notice: contractFindings.say('board-lost', { ms: 0 }) };
    tellAll(statusNow());
  });

  function listen(page: WebSocket, on: boolean): void {
    if (on) listeners.add(page);
    else if (!listeners.delete(page)) return;
    // Who begins to listen hears what is kept; who heard it before knows it by its number.
    if (on || !listeners.size) ask({ type: 'listen', on });
  }

  /**
   * What a page said that waits for a document to be read: what it says after that comes after it. Stopping, and saying that it is there,
   * wait for nothing.
   */
  const waiting = new WeakMap<WebSocket, Promise<void>>();
  const atOnce: ReadonlySet<string> = new Set<ClientMessage['type']>([
    ...(['hello', 'beat', 'listen', 'take', 'away'] as const),
    ...(['stop', 'halt', 'pause', 'disarm', 'disconnect'] as const),
  ]);
  /** Who waits for the document goes on before what waits for its turn: its own promise is handed on. */
  function opened(page: WebSocket, rigId: string): ReturnType<typeof shelf.open> {
    const opening = shelf.open(rigId);
    const settled = (): void => void (waiting.get(page) === turn && waiting.delete(page));
    const turn: Promise<void> = opening.then(settled, settled);
    waiting.set(page, turn);
    return opening;
  }

  async function take(page: WebSocket, text: string): Promise<void> {
    let input: unknown;
    try {
      input = JSON.parse(text);
    } catch (error) {
      throw apiError('bad-json', { problem: (error as Error).message });
    }
    const parsed = clientMessage.safeParse(input);
    if (!parsed.success) {
      const faults = faultsOf(parsed.error, input, 'the message');
      throw faulted(faults);
    }
    const message = parsed.data;
    if (network.rightOf(devices.get(page) ?? null) === 'watch' && !mayWatch(message.type))
      throw apiError('right-watch');
    const before = control.holder;
    control.check(message.type, pages.get(page)!, status.link === 'absent');
    if (control.holder !== before) tellAll(statusNow());
    if (!atOnce.has(message.type)) while (waiting.has(page)) await waiting.get(page);
    switch (message.type) {
      case 'hello': {
        const { page: name, openedAt } = message;
        pages.set(page, { page: name, openedAt });
        return control.has({ page: name, openedAt }) ? ask({ type: 'beat' }) : undefined;
      }
      case 'beat':
        return control.has(pages.get(page)!) ? ask({ type: 'beat' }) : undefined;
      case 'listen':
        listen(page, message.on);
        return;
      case 'take':
        control.holder = pages.get(page)!;
        ask({ type: 'beat' });
        return tellAll(statusNow());
      case 'away': {
        const { type, ...away } = message;
        return ask({ type, away });
      }
      case 'connect': {
        if (isActive(status.run)) throw apiError('run-busy');
        const { document } = await opened(page, message.rigId);
        return ask({
          type: 'connect',
          rigId: message.rigId,
          document,
          buildId: message.buildId,
          timeScale: message.timeScale,
          links: message.links,
        });
      }
      case 'run': {
        const { document, revision } = await opened(page, message.rigId);
        if (revision !== message.revision) throw apiError('revision-conflict', { revision, yours: message.revision });
        const { rigId, buildId, routineId, fromStep, asDrawn, stepwise } = message;
        return ask({
          type: 'run',
          run: {
            id: randomUUID(),
            rigId,
            revision,
            buildId,
            routineId,
            ...(fromStep ? { fromStep } : {}),
            ...(asDrawn ? { asDrawn } : {}),
            ...(stepwise ? { stepwise } : {}),
          },
          document,
        });
      }
      case 'arm':
      case 'home':
      case 'motor-on': {
        const document = status.rigId === null ? null : (await opened(page, status.rigId)).document;
        return ask({ ...message, document });
      }
      case 'by-hand': {
        const { type, on, rigId, revision: yours, buildId, limitsOf } = message;
        if (!on) return ask({ type, on });
        const { document, revision } = await opened(page, rigId);
        if (revision !== yours) throw apiError('revision-conflict', { revision, yours });
        return ask({ type, on, rigId, buildId, document, ...(limitsOf === undefined ? {} : { limitsOf }) });
      }
      default:
        return ask(message);
    }
  }

  app.get('/api/live', { websocket: true }, (page: WebSocket, { device }) => {
    pages.set(page, { page: randomUUID(), openedAt: new Date().toISOString() });
    if (device !== null) devices.set(page, device);
    tellRight(page);
    tell(page, statusNow());
    const leave = (): void => {
      pages.delete(page);
      devices.delete(page);
      listen(page, false);
    };
    page.on('close', leave);
    page.on('error', leave);
    page.on('message', (data: Buffer) => {
      take(page, data.toString()).catch((error: unknown) => {
        const known = error instanceof ApiError ? error : apiError('internal', { id: '-' });
        if (!(error instanceof ApiError)) app.log.error(error);
        const { code, message, remedy } = known.body();
        tell(page, { type: 'refused', code, message, ...(remedy ? { remedy } : {}), findings: [] });
      });
    });
  });

  return {
    get runs() {
      return isActive(status.run) ? (status.rigId ?? null) : null;
    },
    get runId() {
      return isActive(status.run) ? status.runId : null;
    },
    async close() {
      clearInterval(pinging);
      keeper.close();
      pages.forEach((_, page) => page.terminate());
      await worker.terminate();
    },
  };
}
