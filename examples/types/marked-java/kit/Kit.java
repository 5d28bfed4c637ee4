package velmora.kit;

/** What the house marks its parts with. */
@interface Carried { String value() default ""; }
@interface Maker {}
@interface Stop { String value(); }
@interface Under { String value(); }
@interface FromBoard { String value(); }

class Every<T> {}
class Later<T> {}

interface Announcement { String text(); }
interface Voice { void say(String text); }

class Keys {
    static final String PLATFORM = "platform";
}
