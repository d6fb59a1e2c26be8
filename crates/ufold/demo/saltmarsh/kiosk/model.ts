/** What the kiosk in the harbour's hall shows. */
export interface Ship {
  name: string;
  flag: string;
  length: number;
  draught: number;
}

export interface Call {
  ship: Ship;
  berth: string;
  arrives: number;
  leaves: number;
}

export interface Tide {
  minute: number;
  height: number;
}

/** Minutes since midnight as a time of day. */
export function clock(minutes: number): string {
  const hours = Math.floor(minutes / 60) % 24;
  const rest = minutes % 60;
  return `${String(hours).padStart(2, '0')}:${String(rest).padStart(2, '0')}`;
}
