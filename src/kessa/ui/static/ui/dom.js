// Finding elements, for every script.

/** @type {(selector: string, within?: ParentNode) => any} */
export const find = (selector, within = document) => within.querySelector(selector);

/** @type {(selector: string, within?: ParentNode) => any[]} */
export const findAll = (selector, within = document) => [...within.querySelectorAll(selector)];

/** @type {(event: Event) => HTMLElement} */
export const targetOf = (event) => /** @type {HTMLElement} */ (event.target);
