/** Addresses that several screens lead to. Where one begins ("/") depends on one's role. */
export const DESK = "/desk";
export const SLIPS = "/slips";
