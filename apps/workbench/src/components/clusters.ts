/** A point on the drawing. */
export interface Placed {
  x: number
  y: number
}

/** Points that lie too close together to be told apart; it stands at the middle of them. */
export interface Cluster<Point extends Placed> extends Placed {
  points: Point[]
}

const CELL = 26

/** Groups points of a drawing by a grid; what lies outside of it is left out. */
export function clustered<Point extends Placed>(
  points: readonly Point[],
  width: number,
  height: number,
): Cluster<Point>[] {
  const cells = new Map<string, Point[]>()
  for (const point of points) {
    if (point.x < 0 || point.y < 0 || point.x > width || point.y > height) continue
    const key = `${Math.floor(point.x / CELL)} ${Math.floor(point.y / CELL)}`
    const cell = cells.get(key)
    if (cell) cell.push(point)
    else cells.set(key, [point])
  }
  const mean = (list: readonly Placed[], axis: 'x' | 'y') =>
    list.reduce((sum, point) => sum + point[axis], 0) / list.length
  return [...cells.values()].map((inside) => ({ x: mean(inside, 'x'), y: mean(inside, 'y'), points: inside }))
}
