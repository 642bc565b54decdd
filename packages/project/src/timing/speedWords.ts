/** A speed of the action, 1 as it was taken, as it is said everywhere: "83.42 %", "12.5 %", "100 %". @param decimals at most */
export function speedWords(speed: number, decimals = 2): string {
  return `${Number((speed * 100).toFixed(decimals))} %`;
}
