/**
 * Does something with each of many, some of them side by side. Where one goes wrong the others on their way are waited
 * for, and none is begun any more: what goes on behind a failure would meet the next try at the same files.
 * @param failed hears of the first that goes wrong at once, and may cut the others short
 * @throws what went wrong first
 */
export async function sideBySide<T>(
  items: Iterable<T>,
  atOnce: number,
  work: (item: T) => Promise<void>,
  failed: () => void = () => undefined,
): Promise<void> {
  const failures: unknown[] = []
  const queue = items[Symbol.iterator]()
  const goOn = async () => {
    for (let next = queue.next(); !next.done && failures.length === 0; next = queue.next())
      try {
        await work(next.value)
      } catch (thrown) {
        if (failures.push(thrown) === 1) failed()
      }
  }
  await Promise.all(Array.from({ length: atOnce }, goOn))
  if (failures.length > 0) throw failures[0]
}
