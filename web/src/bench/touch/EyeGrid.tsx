// The grid on which a person marks places that do not answer, by finger, mouse or keys.

import { Box } from "@mui/material";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { cellAt, cellKey, movedCursor, type Cell } from "./marks";

export function EyeGrid({
  columns,
  rows,
  marked,
  drawn,
  onMark,
}: {
  columns: number;
  rows: number;
  marked: ReadonlySet<string>;
  /** Where a photo shows lines of a trail. */
  drawn?: ReadonlySet<string>;
  onMark?: (cell: Cell, on: boolean) => void;
}) {
  const [cursor, setCursor] = useState<Cell | null>(null);
  const painting = useRef<boolean | null>(null);
  const paint = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const cell = cellAt((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height, columns, rows);
    painting.current ??= !marked.has(cellKey(cell));
    onMark?.(cell, painting.current);
  };
  const press = (event: KeyboardEvent) => {
    const moved = movedCursor(event.key, cursor ?? [0, 0], columns, rows);
    if (!moved && event.key !== " ") return;
    event.preventDefault();
    event.stopPropagation();
    const at = moved ?? cursor ?? [0, 0];
    setCursor(at);
    if (!moved) onMark?.(at, !marked.has(cellKey(at)));
  };
  return (
    <Box
      component="svg"
      role="application"
      aria-label={`Places that do not answer: ${marked.size} marked${cursor ? `; at column ${cursor[0] + 1}, row ${cursor[1] + 1}${marked.has(cellKey(cursor)) ? ", marked" : ""}` : ""}`}
      tabIndex={onMark ? 0 : -1}
      viewBox={`0 0 ${columns} ${rows}`}
      onKeyDown={onMark ? press : undefined}
      onFocus={() => {
        setCursor((at) => at ?? [0, 0]);
      }}
      onBlur={() => {
        setCursor(null);
      }}
      onPointerDown={(event) => {
        if (!onMark) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        paint(event);
      }}
      onPointerMove={(event) => {
        if (painting.current !== null) paint(event);
      }}
      onPointerUp={() => {
        painting.current = null;
      }}
      sx={{
        display: "block",
        width: "100%",
        maxWidth: columns >= rows ? 560 : 260,
        my: 1,
        bgcolor: "background.default",
        border: 1,
        borderColor: "divider",
        touchAction: "none",
        cursor: onMark ? "crosshair" : "default",
      }}
    >
      {Array.from({ length: columns * rows }, (_, n): Cell => [n % columns, Math.floor(n / columns)]).map(([x, y]) => (
        <rect
          key={`${x}.${y}`}
          x={x + 0.04}
          y={y + 0.04}
          width={0.92}
          height={0.92}
          fill={marked.has(cellKey([x, y])) || drawn?.has(cellKey([x, y])) ? "currentColor" : "transparent"}
          fillOpacity={marked.has(cellKey([x, y])) ? 1 : 0.18}
          stroke="currentColor"
          strokeOpacity={0.25}
          strokeWidth={0.04}
        />
      ))}
      {cursor && (
        <rect
          x={cursor[0]}
          y={cursor[1]}
          width={1}
          height={1}
          fill="none"
          stroke="currentColor"
          strokeWidth={0.16}
          pointerEvents="none"
        />
      )}
    </Box>
  );
}
