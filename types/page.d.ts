// What the checker of the scripts is told beside the scripts themselves. Elements found by a selector are taken as they
// come: which kind one is stands in the templates, where no checker looks.

interface ParentNode {
  querySelector(selectors: string): any;
  querySelectorAll(selectors: string): NodeListOf<any>;
}
interface Document {
  getElementById(id: string): any;
  activeElement: any;
}
interface Element {
  closest(selectors: string): any;
}
interface Window {
  jayLantern: any;
  htmx: any;
}
interface Array<T> {
  findLast(test: (each: T, index: number) => unknown): T | undefined;
  findLastIndex(test: (each: T, index: number) => unknown): number;
  toReversed(): T[];
  toSorted(compare?: (a: T, b: T) => number): T[];
}
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare const currentFrame: number;
declare const currentTime: number;
declare function registerProcessor(name: string, processor: unknown): void;
interface EventTarget {
  closest(selectors: string): any;
  matches(selectors: string): boolean;
  click(): void;
  dataset: any;
  id: string;
  files: any;
  elements: any;
}
interface Event {
  readonly detail?: any;
}
// popovers, newer than the checker knows
interface HTMLElement {
  popover: string | null;
  showPopover(): void;
  hidePopover(): void;
  togglePopover(): void;
}
interface HTMLButtonElement {
  popoverTargetElement: Element | null;
}
interface Event {
  readonly newState?: "open" | "closed";
}
