namespace Velmora.Incidents
{
    public interface IAlarm { }

    public interface IPager { }

    public interface ILine { }

    public partial class Alarm : IAlarm
    {
        public Alarm(IPager pager) { }
    }

    public class Desk(IAlarm alarm, ILine line);

    public static class Report
    {
    }
}
