let turn = 0;
let isOn = false;

function next(): void {
  turn++;
  isOn = false;
}

/**
 * The number of the event loop's turn. What was found out in a turn is true for the others of the same turn: their requests came
 * before it.
 */
export function currentTurn(): number {
  if (!isOn) {
    isOn = true;
    setImmediate(next);
  }
  return turn;
}
