/** Where a click on a stage lies in the picture. `px`, `py` from the stage's corner; a mirrored stage is mirrored about its middle. */
export function spotOf(
  [px, py]: readonly [number, number],
  stage: readonly [number, number],
  center: readonly number[],
  resolution: number,
  flipped: boolean,
): [number, number] {
  const across = flipped ? stage[0] - px : px;
  return [
    (center[0] ?? 0) + (across - stage[0] / 2) * resolution,
    -((center[1] ?? 0) - (py - stage[1] / 2) * resolution),
  ];
}

/** And back: where a spot of the picture lies on the stage. */
export function placeOf(
  [x, y]: readonly [number, number],
  stage: readonly [number, number],
  center: readonly number[],
  resolution: number,
  flipped: boolean,
): [number, number] {
  const across = stage[0] / 2 + (x - (center[0] ?? 0)) / resolution;
  return [flipped ? stage[0] - across : across, stage[1] / 2 + (y + (center[1] ?? 0)) / resolution];
}
