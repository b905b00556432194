// A register as a table of which only the rows in view are drawn; more are asked for as the end comes near. A row opens its details under itself.

import { Box, ButtonBase, Table, TableBody, TableCell, TableHead, TableRow } from "@mui/material";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState, type ReactNode } from "react";

const ROW_PX = 49;
const BEYOND = 12;

export interface Column<T> {
  title: string;
  cell: (row: T) => ReactNode;
  /** Left out where the screen is narrow; the details have it. */
  wideOnly?: boolean;
  width?: number | string;
}
const wide = (only?: boolean) => (only ? { display: { xs: "none", md: "table-cell" } } : {});
const CELL = { borderColor: "divider", overflowWrap: "break-word", py: 0.5 } as const;

/** The first column opens the row. */
export function RowTable<T extends { id: number }>({
  label,
  rows,
  columns,
  details,
  open,
  onOpen,
  onEnd,
}: {
  label: string;
  rows: T[];
  columns: readonly Column<T>[];
  details: (row: T) => ReactNode;
  open: number | null;
  onOpen: (id: number | null) => void;
  onEnd?: () => void;
}) {
  const table = useRef<HTMLTableElement>(null);
  const [top, setTop] = useState(0);
  useEffect(() => {
    const place = () => {
      setTop(table.current ? table.current.getBoundingClientRect().top + window.scrollY : 0);
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
  if (rows.length === 0) return null;
  const before = Math.max(0, (items[0]?.start ?? top) - top);
  const after = Math.max(0, drawn.getTotalSize() - ((items.at(-1)?.end ?? top) - top));
  const room = (height: number) =>
    height > 0 && (
      <TableBody aria-hidden>
        <TableRow style={{ height }}>
          <TableCell colSpan={columns.length} sx={{ p: 0, border: 0 }} />
        </TableRow>
      </TableBody>
    );
  return (
    <Table
      ref={table}
      aria-label={label}
      aria-rowcount={rows.length + 1}
      sx={{ tableLayout: { xs: "auto", md: "fixed" } }}
    >
      <TableHead>
        <TableRow>
          {columns.map((column) => (
            <TableCell
              key={column.title}
              sx={{
                ...CELL,
                ...wide(column.wideOnly),
                width: { md: column.width },
                color: "text.secondary",
                fontSize: "0.85rem",
              }}
            >
              {column.title}
            </TableCell>
          ))}
        </TableRow>
      </TableHead>
      {room(before)}
      {items.map((item) => {
        const row = rows[item.index];
        if (!row) return null;
        return (
          <TableBody key={item.key} data-index={item.index} ref={drawn.measureElement}>
            <TableRow aria-rowindex={item.index + 2}>
              {columns.map((column, at) => (
                <TableCell
                  key={column.title}
                  {...(at === 0 && { component: "th", scope: "row" })}
                  sx={{ ...CELL, ...wide(column.wideOnly), ...(at === 0 && { p: 0 }) }}
                >
                  {at === 0 ? (
                    <ButtonBase
                      aria-expanded={open === row.id}
                      onClick={() => {
                        onOpen(open === row.id ? null : row.id);
                      }}
                      sx={{
                        width: "100%",
                        minHeight: 48,
                        px: 2,
                        justifyContent: "flex-start",
                        textAlign: "left",
                        font: "inherit",
                        fontWeight: 600,
                        fontSize: "1rem",
                      }}
                    >
                      {column.cell(row)}
                    </ButtonBase>
                  ) : (
                    column.cell(row)
                  )}
                </TableCell>
              ))}
            </TableRow>
            {open === row.id && (
              <TableRow>
                <TableCell colSpan={columns.length} sx={{ p: 0, borderColor: "divider" }}>
                  <Box>{details(row)}</Box>
                </TableCell>
              </TableRow>
            )}
          </TableBody>
        );
      })}
      {room(after)}
    </Table>
  );
}
