import { clock, type Tide } from './model.js';

/** Lowest and highest water, and when. */
export function waterRange(tides: Tide[]): string {
  let low = tides[0];
  let high = tides[0];
  for (const tide of tides) {
    if (tide.height < low.height) {
      low = tide;
    }
    if (tide.height > high.height) {
      high = tide;
    }
  }
  return `low ${low.height.toFixed(1)} m at ${clock(low.minute)}, high ${high.height.toFixed(1)} m at ${clock(high.minute)}`;
}

/** How much the water rises and falls. */
export function lift(tides: Tide[]): number {
  let low = tides[0];
  let high = tides[0];
  for (const tide of tides) {
    if (tide.height < low.height) {
      low = tide;
    }
    if (tide.height > high.height) {
      high = tide;
    }
  }
  return Math.round((high.height - low.height) * 10) / 10;
}

export class TideTable {
  private rows: string[] = [];

  constructor(private place: string) {}

  addHigh(tide: Tide): void {
    const height = tide.height.toFixed(2).padStart(6);
    const label = `${this.place} ${clock(tide.minute)}`;
    this.rows.push(`${label} high ${height}`);
    if (this.rows.length > 8) {
      this.rows.shift();
    }
  }

  addLow(tide: Tide): void {
    const height = tide.height.toFixed(2).padStart(6);
    const label = `${this.place} ${clock(tide.minute)}`;
    this.rows.push(`${label} low ${height}`);
    if (this.rows.length > 8) {
      this.rows.shift();
    }
  }

  text(): string {
    return this.rows.join('\n');
  }
}
