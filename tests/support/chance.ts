/** Chance that is the same for the same seed: numbers from 0 to 1, between two, and normally distributed (Box and Muller). */
export function chanceOf(seed: number) {
  let state = seed >>> 0;
  const unit = (): number => {
    // xorshift32, Marsaglia 2003
    state = (state === 0 ? 0x9e3779b9 : state) >>> 0;
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return (state + 0.5) / 2 ** 32;
  };
  for (let i = 0; i < 8; i++) unit(); // seeds beside each other begin alike
  return {
    unit,
    between: (least: number, most: number): number => least + (most - least) * unit(),
    normal: (): number => Math.sqrt(-2 * Math.log(unit())) * Math.cos(2 * Math.PI * unit())
  };
}
