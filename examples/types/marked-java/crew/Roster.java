package velmora.crew;

import velmora.kit.Carried;

/** Marked as a part, in a folder that nobody reads parts from. */
@Carried
class Roster {}
