// What every page does; benches bring their own scripts beside it.

import * as choices from "./choices.js";
import * as focus from "./focus.js";
import * as keep from "./keep.js";
import * as keys from "./keys.js";
import * as timeline from "./timeline.js";
import * as remade from "./remade.js";
import * as sending from "./sending.js";
import * as tables from "./tables.js";

for (const part of [choices, keep, keys, remade, sending, tables, timeline, focus]) part.start();
const reload = document.body.dataset.reloadS;
if (reload) setTimeout(() => location.reload(), Number(reload) * 1000);
