// Figures that are known to a factor only: no more digits than that.

/** To two significant figures. */
export const twoFigures = (value: number): number => Number(value.toPrecision(2));

/** 'about 330 cd/m², 220 to 490' of a luminance that is true to within `factor`. */
export const aboutLight = ({ cd_m2, factor }: { cd_m2: number; factor: number }): string =>
  `about ${twoFigures(cd_m2)} cd/m², ${twoFigures(cd_m2 / factor)} to ${twoFigures(cd_m2 * factor)}`;
