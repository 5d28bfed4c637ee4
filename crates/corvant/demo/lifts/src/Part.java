package velmora.parts;

/** A class of which there is one in the network. */
@interface Part {
    String value();
}

/** A method that answers requests. */
@interface Answers {
    String value();
}

/** A parameter that is a setting. */
@interface FromSettings {
    String value();
}
