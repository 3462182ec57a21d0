"""The queue of edits against a server that answers late and in any order: no wish is lost, none is applied twice."""

import random
import unittest

from tests import LONG
from tests.screens.bundle import UI, bundled_page

RUN = """async ([name, steps]) => {
  const { EditQueue } = ui.queue, { merged, composed } = ui.merge;
  const server = { id: name, revision: 1, value: { count: 0 } };
  const held = [], wishes = {}, problems = [];
  const copy = () => structuredClone(server);
  const ask = (type, act, patch) => new Promise((resolve, reject) => held.push({ type, act, patch, resolve, reject }));
  const kind = {
    key: 'document', list: 'documents', path: (id) => `/${id}`, builds: false,
    fetch: () => ask('fetch', copy),
    save: (_, edit, query) => ask('save', () => {
      server.value = merged(server.value, edit.patch);
      server.revision += 1;
      return copy();
    }, edit.patch),
    completed: (_, answer) => answer,
    patched: (kept, patch) => ({ ...kept, value: merged(kept.value, patch) }),
    shown: (kept, patch) => ({ ...kept, value: merged(kept.value, patch) }),
    composed: (first, then) => composed(first, then) ?? null,
  };
  const queries = new ui.QueryClient();
  const queue = EditQueue.of(kind, name, queries);
  queries.setQueryDefaults(['document', name], { queryFn: () => queue.read(), retry: false });
  const settle = () => new Promise((resolve) => setTimeout(resolve));
  const process = (one) => { if (!('answer' in one)) one.answer = one.act(); };
  const shown = () => queries.getQueryData(['document', name])?.value;
  const check = (after) => {
    const now = shown();
    for (const [field, wish] of Object.entries(wishes))
      if (now[field] !== wish) problems.push(`${after}: ${field} is ${now[field]}, wanted ${wish}`);
  };
  const reads = [queue.read()];
  process(held[0]);
  held.shift().resolve(copy());
  queries.setQueryData(['document', name], await reads[0]);
  const refused = [];
  for (const [what, n] of steps) {
    const at = held.length ? n % held.length : 0;
    if (what === 'edit') {
      const field = 'abc'[n % 3];
      wishes[field] = n;
      queue.edit({ [field]: n }, `field ${field}`);
    } else if (what === 'count') {
      queue.editFrom((now) => ({ count: now.value.count + 1 }), 'the count');
      wishes.count = (wishes.count ?? 0) + 1;
    } else if (what === 'read') {
      reads.push(queue.read().then((answer) => queries.setQueryData(['document', name], answer)));
    } else if (what === 'process' && held.length) {
      process(held[at]);
    } else if (what === 'deliver' && held.length) {
      const [one] = held.splice(at, 1);
      process(one);
      one.resolve(one.answer);
    } else if (what === 'refuse' && held[at]?.type === 'save' && !('answer' in held[at])) {
      const [one] = held.splice(at, 1);
      for (const field of Object.keys(one.patch)) if (wishes[field] === one.patch[field]) delete wishes[field];
      refused.push(one.patch);
      one.reject(new Error('refused'));
    }
    await settle();
    if (!refused.length) check(`${what} ${n}`);
  }
  let rests = false;
  Promise.all([...reads, queue.idle()]).then(() => { rests = true; });
  for (let turn = 0; turn < 1000 && (!rests || held.length); turn += 1) {
    const one = held.shift();
    if (one) {
      process(one);
      one.resolve(one.answer);
    }
    await settle();
  }
  if (!rests) return ['it never rests'];
  check('at the end');
  const differ = Object.entries(shown()).filter(([field, value]) => server.value[field] !== value);
  for (const [field, value] of differ) problems.push(`the server has ${server.value[field]} as ${field}, not ${value}`);
  return problems;
}"""


def sequences(count, refusals):
    chance = random.Random(31)
    # What is counted on depends on which of the edits before were refused.
    steps = ["edit", "edit", "read", "process", "deliver", "deliver", "refuse" if refusals else "count"]
    for number in range(count):
        yield f"run-{refusals}-{number}", [[chance.choice(steps), chance.randrange(1000)] for _ in range(30)]


class EditQueueTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        case = unittest.TestCase()
        cls.addClassCleanup(case.doCleanups)
        modules = {"queue": "api/editQueue", "merge": "api/merge"}
        client = f'export {{ QueryClient }} from "{UI}/node_modules/@tanstack/react-query";\n'
        cls.page = bundled_page(case, modules, more=client)
        cls.addClassCleanup(cls.page.close)

    def test_no_wish_is_lost_however_late_answers_come(self):
        for name, steps in sequences(400 if LONG else 80, refusals=False):
            self.assertEqual(self.page.evaluate(RUN, [name, steps]), [], (name, steps))

    def test_a_refused_edit_takes_no_other_with_it(self):
        for name, steps in sequences(400 if LONG else 80, refusals=True):
            self.assertEqual(self.page.evaluate(RUN, [name, steps]), [], (name, steps))


if __name__ == "__main__":
    unittest.main()
