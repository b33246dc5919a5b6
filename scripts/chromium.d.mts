export declare const flags: string[];
export declare const flags3d: string[];
