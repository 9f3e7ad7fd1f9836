/** The part of the package that tests compare with; it ships no types. */
declare module '@lhncbc/ucum-lhc' {
  interface Converted {
    readonly status: 'succeeded' | 'failed' | 'error';
    readonly toVal: number;
  }
  const ucum: {
    UcumLhcUtils: { getInstance(): { convertUnitTo(from: string, value: number, to: string): Converted } };
  };
  export default ucum;
}
