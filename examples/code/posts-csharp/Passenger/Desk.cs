using Velmora.Crew;
using Velmora.Office;

namespace Velmora.Passenger
{
    public interface IDesk { }
    public class Desk : IDesk { public Desk(IDriver driver) { } }

    public class DeskRota : Rota
    {
        public override void Assign(Office office)
        {
            office.Post<IDesk, Desk>(Bay.North);
            office.Call<IDriver>();
        }

        public override void TakeUp(Office office) { }
    }

    public class LostRota : Rota
    {
        public override void Assign(Office office)
        {
            office.Post<Counter>();
        }
    }
}
