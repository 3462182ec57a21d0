const KEY = "vexel-notify";

/** Whether the user wants a notification when a capture ends. */
export const keptWish = () =>
  localStorage.getItem(KEY) === "yes" &&
  typeof Notification !== "undefined" &&
  Notification.permission === "granted";

export const keepWish = (wanted: boolean) => localStorage.setItem(KEY, wanted ? "yes" : "no");
