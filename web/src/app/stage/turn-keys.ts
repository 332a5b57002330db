/** The way that a key turns the view: degrees around, degrees up, factor nearer; undefined for other keys. */
export function turnOf(event: KeyboardEvent): [number, number, number] | undefined {
  const ways: Record<string, [number, number, number]> = {
    ArrowLeft: [-10, 0, 1],
    ArrowRight: [10, 0, 1],
    ArrowUp: [0, 8, 1],
    ArrowDown: [0, -8, 1],
    '+': [0, 0, 1.15],
    '-': [0, 0, 1 / 1.15],
  };
  return event.key.startsWith('Arrow') && !event.shiftKey ? undefined : ways[event.key];
}
