// Tiles of a photo that is laid over the panel: asked for when they are looked at, kept while the page is open.

import { useMemo } from "react";
import type { Cut } from "./view";

/** Of each photo that is looked at; a level-0 tile takes a megabyte once it is drawn. */
const MOST_KEPT = 160;

export interface TileStore {
  /** The picture of a tile, or nothing while it is on its way: it is asked for now, and `subscribe`d ones hear when it has come. */
  get: (level: number, column: number, row: number) => HTMLImageElement | null;
  subscribe: (heard: () => void) => () => void;
}

export function tileStore(address: string, onFailure: () => void): TileStore {
  const tiles = new Map<string, HTMLImageElement>();
  const hearers = new Set<() => void>();
  const tell = () => {
    for (const heard of hearers) heard();
  };
  return {
    get: (level, column, row) => {
      const name = `${level}/${column}/${row}`;
      const known = tiles.get(name);
      if (known) {
        tiles.delete(name); // what was looked at last is kept longest
        tiles.set(name, known);
        return known.complete && known.naturalWidth > 0 ? known : null;
      }
      const image = new Image();
      image.onload = tell;
      image.onerror = () => {
        onFailure();
      };
      image.src = `${address}/${name}`;
      tiles.set(name, image);
      for (const oldest of tiles.keys()) {
        if (tiles.size <= MOST_KEPT) break;
        tiles.delete(oldest);
      }
      return null;
    },
    subscribe: (heard) => {
      hearers.add(heard);
      return () => hearers.delete(heard);
    },
  };
}

export interface Layer {
  cut: Cut;
  store: TileStore;
}

/** The tiles of a view that is made, or nothing yet. */
export function useTiles(id: number | null, cut: Cut | null, onFailure: () => void): Layer | null {
  return useMemo(
    () => (id !== null && cut ? { cut, store: tileStore(`/api/rectified/${id}`, onFailure) } : null),
    [id, cut, onFailure],
  );
}
