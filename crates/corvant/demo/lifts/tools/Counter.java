package velmora.lifts.tools;

import velmora.parts.Part;

/** Counts who takes the lift; a definition says so. */
public class Counter {}
