// What is shown is kept in the address, so that a link shows the same.
import { useSearchParams } from "react-router";

/**
 * The address's part after the question mark, and how to change it without a new step in the browser's history.
 * A change begins from what the address is, not from what was drawn last: two quick ones both count.
 */
export function useAddress(): [URLSearchParams, (make: (next: URLSearchParams) => void) => void] {
  const [params, setParams] = useSearchParams();
  const change = (make: (next: URLSearchParams) => void) => {
    const next = new URLSearchParams(window.location.search);
    make(next);
    setParams(next, { replace: true });
  };
  return [params, change];
}
