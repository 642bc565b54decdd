/**
 * Style as it is computed where there are no style sheets: what an element says itself, then what its kind of element has anyway.
 * jsdom matches each of its built-in rules anew each time it is asked, and views are asked hundreds of times a press whether they can be seen.
 */

const bare = new Map<string, CSSStyleDeclaration>();
const asked = window.getComputedStyle.bind(window);

/** Styles of an element of this kind that says nothing of itself, which jsdom knows. */
function styleOfKind(element: Element): CSSStyleDeclaration {
  const kind = element.tagName;
  const known = bare.get(kind);
  if (known) return known;
  const plain = element.cloneNode(false) as Element;
  for (const { name } of [...plain.attributes]) plain.removeAttribute(name);
  document.documentElement.append(plain);
  const style = asked(plain);
  // What was computed is kept: the element goes.
  const kept = Object.fromEntries(Array.from(style, (name) => [name, style.getPropertyValue(name)]));
  plain.remove();
  const found = document.createElement('i').style;
  for (const [name, value] of Object.entries(kept)) found.setProperty(name, value);
  bare.set(kind, found);
  return found;
}

/** Whether an element or one around it hides it; one further in may show it again. */
function visibilityOf(element: Element): string {
  for (let at: Element | null = element; at; at = at.parentElement) {
    const own = (at as HTMLElement).style?.visibility;
    if (own) return own;
  }
  return 'visible';
}

function styled(element: Element, name: string): string {
  const own = (element as HTMLElement).style?.getPropertyValue(name);
  if (own) return own;
  if (name === 'visibility') return visibilityOf(element);
  if (name === 'display' && element.hasAttribute('hidden')) return 'none';
  return styleOfKind(element).getPropertyValue(name);
}

const hyphenated = (name: string): string => name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);

export function computedStyle(element: Element): CSSStyleDeclaration {
  return new Proxy({} as CSSStyleDeclaration, {
    get: (_, name) => {
      if (name === 'getPropertyValue') return (property: string) => styled(element, property);
      return typeof name === 'string' ? styled(element, hyphenated(name)) : undefined;
    },
  });
}
