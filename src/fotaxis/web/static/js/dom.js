// Elements by id and by selector. Typed loosely: which element an id or a selector names, the template says.

/** @type {(id: string) => any} */
export const $ = (id) => document.getElementById(id);

/** @type {(selector: string, root?: ParentNode) => any} */
export const query = (selector, root = document) => root.querySelector(selector);

/** @type {(selector: string, root?: ParentNode) => any[]} */
export const all = (selector, root = document) => [...root.querySelectorAll(selector)];

/** The element an event is about. @type {(event: Event) => any} */
export const targetOf = (event) => event.target;
