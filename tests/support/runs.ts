/** How many cases a property is tried on, where faults are rare: with fresh seeds, which a failure prints. More when BUSSOLA_RUNS says so. */
export const manyRuns = (usual = 500): number => Number(process.env['BUSSOLA_RUNS'] ?? usual);
