/** A list that was chosen from by mouse does not keep the keyboard: Enter and Escape are the sheet's again. */
import { useEffect } from "react";

function letGo(e: MouseEvent) {
  const chosen = e.target instanceof Element && e.target.closest(".ant-select-item-option");
  const held = document.activeElement;
  if (!chosen || !(held instanceof HTMLElement)) return;
  // Of a list of which several are chosen, the next is chosen as well.
  const list = held.closest(".ant-select");
  if (list && !list.classList.contains("ant-select-multiple")) held.blur();
}

export function useListsLetGo() {
  useEffect(() => {
    document.addEventListener("click", letGo);
    return () => document.removeEventListener("click", letGo);
  }, []);
}
