/** Shades as they stand in an address, and how alike two of them are. */

/** L*, a*, b* with a comma between, to a tenth. */
export const asShade = (lab: readonly number[]) => lab.map((value) => value.toFixed(1)).join(',')

export const labCss = ([lightness = 0, a = 0, b = 0]: readonly number[]) => `lab(${lightness} ${a} ${b})`

/** A CIEDE2000 difference in words. */
export function alike(difference: number, darknessOnly = false): string {
  if (difference <= 1) return darknessOnly ? 'As dark' : 'Looks the same'
  if (difference <= 3) return 'Very near'
  if (difference <= 8) return 'Akin'
  return 'Far off'
}
