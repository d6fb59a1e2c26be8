import assert from 'node:assert/strict';
import { test } from 'node:test';

import { TideTable, lift, waterRange } from '../.built/tides.js';

const tides = [
  { minute: 190, height: 1.24 },
  { minute: 560, height: 5.61 },
  { minute: 930, height: 0.98 },
];

test('the range of the water', () => {
  assert.equal(waterRange(tides), 'low 1.0 m at 15:30, high 5.6 m at 09:20');
  assert.equal(lift(tides), 4.6);
});

test('the table keeps the last eight rows', () => {
  const table = new TideTable('Mole');
  for (let i = 0; i < 5; i++) {
    table.addHigh(tides[1]);
    table.addLow(tides[0]);
  }
  const rows = table.text().split('\n');
  assert.equal(rows.length, 8);
  assert.equal(rows[0], 'Mole 09:20 high   5.61');
  assert.equal(rows[7], 'Mole 03:10 low   1.24');
});
