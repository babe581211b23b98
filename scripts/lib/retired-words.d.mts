export declare const RETIRED_WORDS: Record<string, string>
export declare function retiredWordsIn(text: string): string[]
