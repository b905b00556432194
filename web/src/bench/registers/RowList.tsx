// Rows of a register, of which only those in view are drawn; more are asked for as the end comes near.

import { Box, ButtonBase, Typography } from "@mui/material";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState, type ReactNode } from "react";

const ROW_PX = 49;
const BEYOND = 12;

export function RowList<T extends { id: number }>({
  rows,
  title,
  brief,
  details,
  open,
  onOpen,
  onEnd,
}: {
  rows: T[];
  title: (row: T) => string;
  brief: (row: T) => string;
  details: (row: T) => ReactNode;
  open: number | null;
  onOpen: (id: number | null) => void;
  onEnd?: () => void;
}) {
  const list = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  useEffect(() => {
    const place = () => {
      setTop(list.current ? list.current.getBoundingClientRect().top + window.scrollY : 0);
    };
    place();
    window.addEventListener("resize", place);
    return () => {
      window.removeEventListener("resize", place);
    };
  }, [rows.length]);
  const drawn = useWindowVirtualizer({
    count: rows.length,
    estimateSize: () => ROW_PX,
    overscan: BEYOND,
    scrollMargin: top,
    getItemKey: (index) => rows[index]?.id ?? index,
  });
  const items = drawn.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (rows.length && last >= rows.length - BEYOND) onEnd?.();
  }, [last, rows.length, onEnd]);
  return (
    <Box ref={list} role="list" sx={{ position: "relative", height: drawn.getTotalSize() }}>
      {items.map((item) => {
        const row = rows[item.index];
        if (!row) return null;
        return (
          <Box
            key={item.key}
            role="listitem"
            data-index={item.index}
            ref={drawn.measureElement}
            aria-setsize={rows.length}
            aria-posinset={item.index + 1}
            sx={{ position: "absolute", top: 0, left: 0, right: 0, borderTop: 1, borderColor: "divider" }}
            style={{ transform: `translateY(${item.start - top}px)` }}
          >
            <ButtonBase
              aria-expanded={open === row.id}
              onClick={() => {
                onOpen(open === row.id ? null : row.id);
              }}
              sx={{
                width: "100%",
                justifyContent: "flex-start",
                textAlign: "left",
                flexWrap: "wrap",
                columnGap: 2,
                px: 2,
                py: 1,
                minHeight: 48,
              }}
            >
              <Typography sx={{ fontWeight: 600, minWidth: 140 }}>{title(row)}</Typography>
              <Typography variant="body2" color="textSecondary">
                {brief(row)}
              </Typography>
            </ButtonBase>
            {open === row.id && details(row)}
          </Box>
        );
      })}
    </Box>
  );
}
