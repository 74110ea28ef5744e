// What every page has.
import "./drag.js";
import "./focus.js";
import "./held.js";
import "./keys.js";
import "./leaving.js";
import "./network.js";
import "./offers.js";
import "./session.js";
import "./widgets.js";
