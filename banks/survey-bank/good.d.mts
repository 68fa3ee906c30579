export declare function picture(width?: number, bytes?: number): Buffer;
