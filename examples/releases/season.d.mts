export function buildSeason(folder: string, edition: number): Promise<string>;
