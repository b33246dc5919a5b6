/** Firmware compiled against the stand-in of board functions, and run. */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FirmwareFile } from './index';

export const standIn = fileURLToPath(new URL('../../firmware/stand-in', import.meta.url));
const standInText = (): string[] => readdirSync(standIn).map((name) => readFileSync(join(standIn, name), 'utf8'));
const kept = join(tmpdir(), 'cork-elbow-firmware');

/** The program that a main file and its header make; what the compiler says where it is not content. */
export function compile(files: readonly FirmwareFile[]): string {
  const hash = createHash('sha256')
    .update(JSON.stringify([files, standInText()]))
    .digest('hex')
    .slice(0, 16);
  const folder = join(kept, hash);
  const program = join(folder, 'program');
  if (existsSync(program)) return program;
  for (const { name, text } of files) {
    mkdirSync(dirname(join(folder, name)), { recursive: true });
    writeFileSync(join(folder, name), text);
  }
  const made = `${program}-${process.pid}`;
  const main = files.find(({ name }) => name.endsWith('.ino'))!.name;
  const flags = ['-std=c++11', '-Wall', '-Wextra', '-Werror', '-O1'];
  const { status, stderr, error } = spawnSync(
    process.env.CXX ?? 'g++',
    [
      ...flags,
      '-I',
      standIn,
      '-include',
      'stand_in.h',
      '-x',
      'c++',
      join(folder, main),
      join(standIn, 'main.cpp'),
      '-o',
      made,
    ],
    { encoding: 'utf8' },
  );
  if (error || status !== 0) throw new Error(`${main} is not compiled: ${error?.message ?? stderr}`);
  renameSync(made, program);
  return program;
}

/** What happened on a pin or a bus. */
export interface Happened {
  readonly micros: number;
  readonly what: 'mode' | 'level' | 'pulse' | 'duty' | 'shaft' | 'bus' | 'lost';
  readonly at: number;
  readonly values: readonly number[];
}
export interface Heard {
  readonly lines: readonly string[];
  readonly happened: readonly Happened[];
  /** What came out as bytes, where that was asked. */
  readonly bytes: Uint8Array;
}
/** Lets a program live through orders (see main.cpp); what came out after it began and after each of them. */
export function live(program: string, orders: readonly string[]): Heard[] {
  const { stdout, status, error } = spawnSync(program, [], {
    input: orders.map((order) => `${order}\n`).join(''),
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  if (error || status !== 0) throw new Error(`the program ended with ${status}: ${error?.message}`);
  const parts = stdout.split(/^\.\n/m).slice(0, -1);
  return parts.map((part) => {
    const rows = part.split('\n').filter(Boolean);
    return {
      lines: rows.filter((row) => row.startsWith('< ')).map((row) => row.slice(2)),
      bytes: Uint8Array.from(Buffer.from(rows.find((row) => row.startsWith('= '))?.slice(2) ?? '', 'hex')),
      happened: rows
        .filter((row) => !/^[<=] /.test(row))
        .map((row) => {
          const [micros, what, at, ...values] = row.split(' ');
          return {
            micros: Number(micros),
            what: what as Happened['what'],
            at: Number(at),
            values: values.map(Number),
          };
        }),
    };
  });
}
