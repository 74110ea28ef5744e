// The question desk: what it is made of. No rule of the subject lives in these scripts: what a tool changes is worked
// out by the server.
import "./scripts/converting.js";
import "./scripts/draws.js";
import "./scripts/filling.js";
import "./scripts/gaps.js";
import "./scripts/journal.js";
import "./scripts/leaf.js";
import "./scripts/marks.js";
import "./scripts/maths.js";
import "./scripts/naming.js";
import "./scripts/parts.js";
import "./scripts/pasting.js";
import "./scripts/pointing.js";
import "./scripts/regions.js";
import "./scripts/renaming.js";
import "./scripts/room.js";
import "./scripts/rows.js";
import "./scripts/ruler.js";
import "./scripts/tries.js";
import "./scripts/undo.js";
import "./scripts/ways.js";
