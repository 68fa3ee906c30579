export declare function givenNames(count: number, draw: () => number): string[];
