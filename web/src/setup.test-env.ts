// jsdom has no ResizeObserver; components under test only need it to exist.
class NoResizes {
  observe(): void {
    /* nothing is ever resized here */
  }
  unobserve(): void {
    /* likewise */
  }
  disconnect(): void {
    /* likewise */
  }
}
globalThis.ResizeObserver ??= NoResizes;
