import { clock, type Call } from './model.js';

const WIDTH = 24;

/** Ships on their way in, one line each. */
export function arrivals(calls: Call[], now: number): string[] {
  const lines: string[] = [];
  const waiting = calls.filter((call) => call.arrives >= now);
  waiting.sort((a, b) => a.arrives - b.arrives);
  for (const call of waiting) {
    const name = call.ship.name.padEnd(WIDTH, '.');
    const flag = call.ship.flag.toUpperCase();
    lines.push(`${clock(call.arrives)} ${name} ${flag} berth ${call.berth}`);
  }
  if (lines.length === 0) {
    lines.push('no ships expected');
  }
  return lines;
}

/** Ships on their way out, one line each. */
export function departures(calls: Call[], now: number): string[] {
  const lines: string[] = [];
  const waiting = calls.filter((call) => call.leaves >= now);
  waiting.sort((a, b) => a.leaves - b.leaves);
  for (const call of waiting) {
    const name = call.ship.name.padEnd(WIDTH, '.');
    const flag = call.ship.flag.toUpperCase();
    lines.push(`${clock(call.leaves)} ${name} ${flag} berth ${call.berth}`);
  }
  if (lines.length === 0) {
    lines.push('no ships leaving');
  }
  return lines;
}

/** The ship that takes most of the quay. */
export function longestShip(calls: Call[]): string {
  let best: Call | null = null;
  let most = 0;
  for (const call of calls) {
    const size = call.ship.length;
    if (size > most) {
      best = call;
      most = size;
    }
  }
  return best === null ? 'nobody' : best.ship.name;
}

/** The ship that needs most water. */
export function deepestShip(calls: Call[]): string {
  let best: Call | null = null;
  let most = 0;
  for (const call of calls) {
    const size = call.ship.draught;
    if (size > most) {
      best = call;
      most = size;
    }
  }
  return best === null ? 'nobody' : best.ship.name;
}
