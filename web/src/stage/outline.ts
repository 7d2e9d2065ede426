const MOST = 400;

/** A drawn outline with its closing point left out and, if there are very many points, evenly fewer of them; to a tenth of a pixel. */
export function thinned(points: number[][]): number[][] {
  const [first, last] = [points[0], points.at(-1)];
  const open =
    points.length > 1 && first && last && first[0] === last[0] && first[1] === last[1]
      ? points.slice(0, -1)
      : points;
  const every = Math.max(1, Math.ceil(open.length / MOST));
  return open
    .filter((_, i) => i % every === 0)
    .map((point) => point.map((value) => Math.round(value * 10) / 10));
}

/** A ring of `corners` points around a spot. */
export function around(
  [x, y]: readonly [number, number],
  radius: number,
  corners = 24,
): number[][] {
  return Array.from({ length: corners }, (_, i) => {
    const turn = (2 * Math.PI * i) / corners;
    return [
      Math.round((x + 0.5 + radius * Math.cos(turn)) * 10) / 10,
      Math.round((y + 0.5 + radius * Math.sin(turn)) * 10) / 10,
    ];
  });
}
