export declare function textsOf(path: string, source: string): { line: number, text: string }[]
export declare function buttonsOf(path: string, source: string): { line: number, text: string }[]
