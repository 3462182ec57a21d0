import { useEffect, useState } from "react";

/** Pictures requested at once: few, since a browser sends few requests at a time and others are waiting. */
const MOST = 2;
let going = 0;
const waiting: (() => void)[] = [];

function release() {
  going -= 1;
  while (going < MOST && waiting.length > 0) {
    going += 1;
    waiting.shift()?.();
  }
}

/** Whether it is this picture's turn to be fetched, and what to call when it is there. */
export function useTurn(): [boolean, () => void] {
  const [mine, setMine] = useState(false);
  const [done, setDone] = useState(false);
  useEffect(() => {
    if (done) return;
    const begin = () => setMine(true);
    let begun = false;
    const start = () => {
      begun = true;
      begin();
    };
    waiting.push(start);
    going += 1;
    release();
    return () => {
      const place = waiting.indexOf(start);
      if (place >= 0) waiting.splice(place, 1);
      else if (begun) release();
    };
  }, [done]);
  return [mine, () => setDone(true)];
}
