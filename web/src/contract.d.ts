/** The contract that the page was built with, by its hash. */
declare const __CONTRACT__: string;
