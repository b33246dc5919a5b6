/**
 * The local network, once somebody has opened the program to it: a second door with HTTPS, through which paired devices come, each with
 * its right. What goes through it reaches the same calls as what comes from this computer.
 */
import { createServer, type Server } from 'node:https';
import { hostname, networkInterfaces } from 'node:os';
import { TLSSocket } from 'node:tls';
import { parse, serialize } from 'cookie';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import type { DeviceRight, NetworkAnswer } from '@cork-elbow/core/contract';
import { apiError } from '../errors';
import { certificateIn, type Certificate } from './certificate';
import { Devices } from './devices';
import { Pairing, type Tried } from './pairing';

const COOKIE = 'cork-elbow-device';
/** Seconds for which browsers keep it. */
const KEPT = 400 * 86_400;
export const PAIR = '/pair';
/** What only this computer asks for: who may come in, and what takes the place of everything. */
const HERE_ONLY = /^\/api\/(network|restore)(\/|$)/;
/** Bodies that change nothing. */
const COMPUTES = /^\/api\/(compute|export|import|presets)\//;

declare module 'fastify' {
  interface FastifyRequest {
    /** Id of the device of the network that asks; null: this computer. */
    device: string | null;
  }
}

const LOOPBACK = ['127.0.0.1', 'localhost'];
/** Addresses of this computer in its networks. */
const addresses = (): string[] =>
  Object.values(networkInterfaces()).flatMap((all) =>
    (all ?? []).flatMap(({ family, internal, address }) => (family === 'IPv4' && !internal ? [address] : [])),
  );
const ownNames = (): string[] => [...addresses(), hostname(), `${hostname()}.local`, ...LOOPBACK];

export class Network {
  private server: Server | null = null;
  private certificate: Certificate | null = null;
  private problem: string | null = null;
  private readonly pairing = new Pairing();
  /** Told of devices that were removed, or may do something else from now on. */
  onChanged: (device: string) => void = () => undefined;

  private constructor(
    private readonly app: FastifyInstance,
    private readonly folder: string,
    private readonly host: string,
    private readonly devices: Devices,
  ) {}

  /** `host`: the address that is listened at. */
  static async of(app: FastifyInstance, folder: string, host: string): Promise<Network> {
    const network = new Network(app, folder, host, await Devices.in(folder));
    app.decorateRequest('device', null);
    app.addHook('onListen', async () => {
      if (network.devices.settings.open) await network.open(network.devices.settings.port);
    });
    app.addHook('onClose', () => network.close());
    return network;
  }

  // ── The door ────────────────────────────────────────────────────────────────────────────────────────────────────

  async choose(open: boolean, port = this.devices.settings.port): Promise<void> {
    await this.devices.choose(open, port);
    await this.close();
    if (open) await this.open(port);
  }
  private async open(port: number): Promise<void> {
    this.certificate = await certificateIn(this.folder, ownNames(), new Date());
    const { key, cert } = this.certificate;
    const server = createServer({ key, cert, minVersion: 'TLSv1.2' });
    // The same calls, and the same live line, as from this computer.
    server.on('request', (request, response) => this.app.server.emit('request', request, response));
    server.on('upgrade', (...all) => this.app.server.emit('upgrade', ...all));
    server.on('tlsClientError', (_error, socket) => socket.destroy());
    this.problem = await new Promise<string | null>((done) => {
      server.once('error', ({ code, message }: NodeJS.ErrnoException) =>
        done(code === 'EADDRINUSE' ? `Port ${port} is taken by another program.` : message),
      );
      server.listen(port, this.host, () => done(null));
    });
    if (this.problem === null) this.server = server;
  }
  async close(): Promise<void> {
    const { server } = this;
    this.server = null;
    this.problem = null;
    this.pairing.hide();
    if (!server) return;
    const closed = new Promise((done) => server.close(done));
    for (const { id } of this.devices.all) this.onChanged(id);
    server.closeAllConnections();
    await closed;
  }

  get isOpen(): boolean {
    return this.server !== null;
  }

  // ── Who comes in ────────────────────────────────────────────────────────────────────────────────────────────────

  static isFrom(request: FastifyRequest): boolean {
    return request.raw.socket instanceof TLSSocket;
  }
  /** Lets a call in, or refuses it. */
  async admit(request: FastifyRequest, reply: FastifyReply): Promise<void> {
    const { host = '', origin } = request.headers;
    const names = ownNames();
    if (!names.includes(host.replace(/:\d+$/, '').toLowerCase())) throw apiError('host-refused', { host });
    if (origin !== undefined && origin !== `https://${host}`) throw apiError('origin-refused', { origin });
    const [path] = request.url.split('?');
    if (path === PAIR) return;
    const token = parse(request.headers.cookie ?? '')[COOKIE];
    request.device = token === undefined ? null : this.devices.byToken(token, Date.now());
    if (request.device === null) {
      if (request.method === 'GET' && !path.startsWith('/api/')) return void reply.redirect(PAIR);
      throw apiError('device-unknown');
    }
    // By the call that it has come to, however its address is written.
    const call = request.routeOptions.url ?? path;
    if (HERE_ONLY.test(call)) throw apiError('here-only');
    const reads = ['GET', 'HEAD'].includes(request.method) || COMPUTES.test(call);
    if (!reads && this.rightOf(request.device) !== 'drive') throw apiError('right-watch');
  }
  /** What somebody may do: this computer everything. Null: nothing, any more. */
  rightOf(device: string | null): DeviceRight | 'here' | null {
    return device === null ? 'here' : this.devices.rightOf(device);
  }
  nameOf(device: string): string {
    return this.devices.all.find(({ id }) => id === device)?.name ?? '';
  }

  /** A device gives the code that is shown here: the header that lets it in from now on, or why not. */
  async pair(code: string, name: string): Promise<{ readonly cookie: string } | Exclude<Tried, { is: 'right' }>> {
    const tried = this.pairing.try(code, Date.now());
    if (tried.is !== 'right') return tried;
    const token = await this.devices.add(name, new Date());
    const options = { path: '/', httpOnly: true, secure: true, sameSite: 'strict', maxAge: KEPT } as const;
    return { cookie: serialize(COOKIE, token, options) };
  }

  // ── As this computer sees it ────────────────────────────────────────────────────────────────────────────────────

  /** A code for one device; whether the door is open for it. */
  showCode(): boolean {
    if (this.server) this.pairing.show(Date.now());
    return this.server !== null;
  }
  async change(id: string, change: { name?: string | undefined; right?: DeviceRight | undefined }): Promise<boolean> {
    const known = await this.devices.change(id, change);
    this.onChanged(id);
    return known;
  }
  async remove(id: string): Promise<boolean> {
    const known = await this.devices.remove(id);
    this.onChanged(id);
    return known;
  }
  get answer(): NetworkAnswer {
    const { settings, all } = this.devices;
    const shown = this.pairing.shown(Date.now());
    return {
      open: this.server !== null,
      port: settings.port,
      addresses: this.server ? addresses().map((address) => `https://${address}:${settings.port}`) : [],
      fingerprint: this.certificate?.fingerprint ?? null,
      until: this.certificate?.until.toISOString() ?? null,
      problem: this.problem,
      code: shown && { text: shown.text, forS: Math.round(shown.forMs / 1000) },
      devices: all,
    };
  }
}
