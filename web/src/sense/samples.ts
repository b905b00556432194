// What is sent of a recording or a frame: plain numbers, as text.

/** 16-bit samples, little-endian. */
export function asPcm(samples: Float32Array): Uint8Array {
  const view = new DataView(new ArrayBuffer(2 * samples.length));
  samples.forEach((value, at) => {
    view.setInt16(2 * at, Math.round(Math.max(-1, Math.min(1, value)) * 32767), true);
  });
  return new Uint8Array(view.buffer);
}

/** Luma of RGBA pixels by the weights of ITU-R BT.601. */
export function asLuma(rgba: Uint8ClampedArray): Uint8Array {
  const luma = new Uint8Array(rgba.length / 4);
  for (let at = 0; at < luma.length; at += 1) {
    const from = 4 * at;
    luma[at] = Math.round(0.299 * (rgba[from] ?? 0) + 0.587 * (rgba[from + 1] ?? 0) + 0.114 * (rgba[from + 2] ?? 0));
  }
  return luma;
}

export function asText(bytes: Uint8Array): string {
  let text = "";
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return btoa(text);
}
