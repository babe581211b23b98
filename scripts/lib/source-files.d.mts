export declare function sourceFiles(): string[]
