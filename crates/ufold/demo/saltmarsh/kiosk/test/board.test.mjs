import assert from 'node:assert/strict';
import { test } from 'node:test';

import { arrivals, deepestShip, departures, longestShip } from '../.built/board.js';

const calls = [
  { ship: { name: 'Grey Heron', flag: 'sm', length: 48, draught: 3.1 }, berth: 'A2', arrives: 480, leaves: 900 },
  { ship: { name: 'Marsh Lily', flag: 'no', length: 31, draught: 4.4 }, berth: 'B1', arrives: 425, leaves: 1005 },
];

test('arrivals come in order of time', () => {
  assert.deepEqual(arrivals(calls, 0), [
    '07:05 Marsh Lily.............. NO berth B1',
    '08:00 Grey Heron.............. SM berth A2',
  ]);
  assert.deepEqual(arrivals(calls, 1000), ['no ships expected']);
});

test('departures come in order of time', () => {
  assert.deepEqual(departures(calls, 901), ['16:45 Marsh Lily.............. NO berth B1']);
  assert.deepEqual(departures([], 0), ['no ships leaving']);
});

test('the longest and the deepest ship', () => {
  assert.equal(longestShip(calls), 'Grey Heron');
  assert.equal(deepestShip(calls), 'Marsh Lily');
  assert.equal(longestShip([]), 'nobody');
});
