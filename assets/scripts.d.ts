// What `tsc --checkJs` takes for granted of a page: what a selector finds is an element with whatever
// properties the script asks of it, since the template says what it is. All else is checked.
interface ParentNode {
  querySelector(selectors: string): any;
  querySelectorAll(selectors: string): NodeListOf<any>;
}
interface Element {
  closest(selectors: string): any;
  querySelector(selectors: string): any;
  querySelectorAll(selectors: string): NodeListOf<any>;
}
interface Document {
  getElementById(id: string): any;
  querySelector(selectors: string): any;
  querySelectorAll(selectors: string): NodeListOf<any>;
}
declare const htmx: any;
interface EventTarget {
  closest(selectors: string): any;
  matches(selectors: string): boolean;
  blur(): void;
}
interface Event {
  readonly detail?: any;
}
interface Element {
  click(): void;
}
interface Window {
  htmx?: any;
}
interface Navigator {
  serial?: any;
}
interface PerformanceEntry {
  type?: string;
}
