using Velmora.Incidents;
using Velmora.Host;

namespace Velmora.Signals;

public interface ILamp { void Light(); }

public interface IPoints { }

public class Points : IPoints { }

public class SparePoints : IPoints { }

public class Lamp : ILamp
{
    public void Light() { }
}

public class Route
{
}

// One constructor says more than the other, and all of it is there.
public class Box
{
    public Box(ILog log) { }

    public Box(ILog log, IEnumerable<ILamp> lamps, Lazy<IAlarm> alarm, IPoints points, Route route, IInterlocking? interlocking = null) { }
}

public interface IInterlocking { }
