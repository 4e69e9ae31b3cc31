// The regions of the workspace: a key leads to each, and focus that would be lost with what held it stays in its region.
import { within } from "../shared/page_state.js";

// keys 1 to 5, in the order in which a screen reader meets them
export const REGIONS = [".strip", ".scheme", ".stage", ".side", ".cycle"];
const LATER = 150; // ms in which whatever follows takes the focus itself
const FIRST = "button, a[href], input, select, textarea, canvas";

const shown = (element) => element.getClientRects().length > 0 && !element.disabled;

export function regions() {
  let last = null; // the region that had the focus
  /** @type {Element | null} */
  let held = null; // and what had it there
  let soon = 0;
  return /** @satisfies {ThisType<Workspace>} */ ({
    get skips() {
      return ["verdicts", "items", "stage", "card", "cycle"].map((name, k) => ({
        number: k + 1,
        words: `Skip to the ${name} (${k + 1})`,
      }));
    },
    closeMenu(event) {
      const menu = event.target.closest("details");
      menu.open = false;
      menu.querySelector("summary").focus();
    },
    enterRegion(number) {
      const region = within(REGIONS[number - 1]);
      // a field would take the next key for itself: from the card as a whole, its first field is one Tab away
      const first = [...region.querySelectorAll(FIRST)].find(shown);
      (first && !first.matches("input, select, textarea") ? first : region).focus();
    },
    // what had the focus is gone: it goes to its region, not to the page as a whole
    keepFocus() {
      const root = document.querySelector(".workspace");
      root.addEventListener("focusin", (e) => {
        held = /** @type {Element} */ (e.target);
        last = REGIONS.find((r) => held?.closest(r)) || last;
      });
      const later = () => {
        clearTimeout(soon);
        soon = window.setTimeout(() => {
          const lost = document.activeElement === document.body || !shown(document.activeElement);
          if (lost && last && document.hasFocus()) within(last)?.focus({ preventScroll: true });
        }, LATER);
      };
      root.addEventListener("focusout", later);
      // what is taken out of the page says nothing when it goes
      new MutationObserver(() => {
        if (held && document.activeElement === document.body && !shown(held)) later();
      }).observe(root, { childList: true, subtree: true, attributes: true, attributeFilter: ["style", "disabled"] });
    },
  });
}
