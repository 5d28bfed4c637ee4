package velmora.passenger;

import velmora.kit.*;

@Carried("display.board")
public class Display {
    private final Every<Announcement> announcements;

    public Display(Every<Announcement> announcements, @Under(Keys.PLATFORM) Voice voice, Later<Refresh> refresh) {
        this.announcements = announcements;
    }
}

@Carried
class Refresh {
    Refresh(Display display, @FromBoard("refresh.seconds") int seconds) {}
}

@Carried
class Lifts implements Announcement {
    static final int RANK = 10;

    public String text() { return "the lift is out of order"; }
}

@Carried
class Delays implements Announcement {
    static final int RANK = 20;

    Delays(Timetable timetable) {}

    public String text() { return "the next tram is late"; }
}

interface Timetable {}

@Carried
@Under("platform")
class PlatformVoice implements Voice {
    public void say(String text) {}
}

class Requests {
    @Stop("GET /stops")
    String stops(Display display, @Under("onboard") Voice voice) { return ""; }

    @Stop("GET /depot")
    String depot(Yard yard) { return ""; }
}

interface Yard {}
