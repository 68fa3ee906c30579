export declare const FAULTS: readonly { readonly area: string; readonly what: string }[];
