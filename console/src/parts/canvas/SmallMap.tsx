import { MiniMap, useStore } from "@xyflow/react";

/** Fewer steps are found without. */
const fewest = 4;

/** The whole drawing, small, as long as not all of it is in sight. */
export function SmallMap({ chosen }: { chosen: readonly string[] }) {
  const isPartial = useStore((s) => {
    if (s.nodes.length < fewest || s.width === 0) return false;
    const [x, y, zoom] = s.transform;
    return s.nodes.some((n) => {
      if (n.parentId !== undefined) return false;
      const [left, top] = [n.position.x * zoom + x, n.position.y * zoom + y];
      const [width, height] = [(n.width ?? 0) * zoom, (n.height ?? 0) * zoom];
      return left < -2 || top < -2 || left + width > s.width + 2 || top + height > s.height + 2;
    });
  });
  if (!isPartial) return null;
  return (
    <MiniMap
      pannable
      zoomable
      ariaLabel="The whole chain, small"
      nodeClassName={(n) => (chosen.includes(n.id) ? "chosen" : "")}
    />
  );
}
