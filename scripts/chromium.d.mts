export declare const flags: string[];
