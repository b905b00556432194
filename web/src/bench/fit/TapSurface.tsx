// A drawing or a photo onto which places are tapped, or put with the arrow keys and Enter.

import { useRef, useState, type ReactNode } from "react";

export interface SurfaceBox {
  x: number;
  y: number;
  width: number;
  height: number;
}

const STEP = 0.02; // of a side, a press of an arrow key
const FINE = 0.004; // with Shift
const MOVES: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** `box`: what shares of a side count from, inside of a picture that is `wide` by `high`. */
export function TapSurface({
  wide,
  high,
  box,
  label,
  tapping,
  onTap,
  children,
}: {
  wide: number;
  high: number;
  box: SurfaceBox;
  label: string;
  tapping: boolean;
  onTap: (x: number, y: number) => void;
  children: ReactNode;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [cross, setCross] = useState<{ x: number; y: number } | null>(null);
  const arm = 0.02 * Math.max(wide, high);
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${wide} ${high}`}
      role={tapping ? "application" : "img"}
      aria-label={tapping ? `${label}. Arrow keys move the cross, Enter marks.` : label}
      tabIndex={tapping ? 0 : undefined}
      style={{ width: "100%", maxHeight: "52vh", display: "block", cursor: tapping ? "crosshair" : undefined }}
      onClick={(event) => {
        if (!tapping || !svg.current) return;
        const shown = svg.current.getBoundingClientRect();
        // the picture is fitted into its box: letterboxed where that is wider or higher
        const fit = Math.min(shown.width / wide, shown.height / high);
        const x = (event.clientX - shown.left - (shown.width - wide * fit) / 2) / fit - box.x;
        const y = (event.clientY - shown.top - (shown.height - high * fit) / 2) / fit - box.y;
        onTap(x / box.width, y / box.height);
      }}
      onKeyDown={(event) => {
        if (!tapping) return;
        const at = cross ?? { x: 0.5, y: 0.5 };
        const move = MOVES[event.key];
        if (move) {
          const by = event.shiftKey ? FINE : STEP;
          const kept = (value: number) => Math.min(Math.max(value, 0), 1);
          setCross({ x: kept(at.x + move[0] * by), y: kept(at.y + move[1] * by) });
        } else if (event.key === "Enter") onTap(at.x, at.y);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
      onFocus={(event) => {
        if (tapping && event.currentTarget.matches(":focus-visible")) setCross((had) => had ?? { x: 0.5, y: 0.5 });
      }}
      onBlur={() => {
        setCross(null);
      }}
    >
      {children}
      {tapping && cross && (
        <path
          d={`M${box.x + cross.x * box.width - arm} ${box.y + cross.y * box.height}h${2 * arm}M${box.x + cross.x * box.width} ${box.y + cross.y * box.height - arm}v${2 * arm}`}
          stroke="currentColor"
          strokeWidth={arm / 6}
        />
      )}
    </svg>
  );
}
