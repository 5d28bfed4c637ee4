namespace Velmora.Crew
{
    public static class Start
    {
        public static void Main(Office office)
        {
            office.Follow(new[] { typeof(Velmora.Passenger.DeskRota), typeof(CrewRota), typeof(CrewRoat) });
            office.Open("ticket-window", typeof(Velmora.Passenger.IDesk));
        }
    }
}
