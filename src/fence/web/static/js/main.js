/** What only the page knows: keys, dragging, what is open. The rules of the job stay on the server. */

import "./token.js";
import "./rails.js";
import "./times.js";
import "./roles.js";
import "./panels.js";
import "./menu.js";
import "./cards.js";
import "./keys.js";
import "./picks.js";
import "./drag.js";
import "./lines.js";
import "./busy.js";
import "./typed.js";
import "./focus.js";
import "./taps.js";
import "./ticks.js";
import "./components.js";
import "./marks.js";
import "./away.js";
