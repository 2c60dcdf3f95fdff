/** The line from the box down the margin into the header, as an SVG path. @param from the box @param to the grid, on screen */
export function threadPath(from: DOMRect, to: DOMRect): string {
  const [x, y, endX, endY] = [from.left, from.top + 25, to.left + 22, to.top + 45];
  const margin = Math.max(3, to.left - 9);
  const drop = endY - y;
  return (
    `M${x} ${y} C${x - 30} ${y} ${margin} ${y + drop * 0.2} ${margin} ${y + drop * 0.5} ` +
    `C${margin} ${y + drop * 0.85} ${to.left} ${endY} ${endX} ${endY}`
  );
}
