using Velmora.Office;

namespace Velmora.Crew
{
    public enum Bay { North, South }

    public interface IDriver { }
    public interface IBook<T> { }
    public interface IWhistle { }
    public class Shift { }

    public class DayDriver : IDriver { public DayDriver(IWhistle whistle) { } }
    public class NightDriver : IDriver { public NightDriver(IBook<Shift> shifts, ILantern lantern) { } }
    public class DrillDriver : IDriver { }
    public class Book<T> : IBook<T> { }
    public class Whistle : IWhistle { }
    public class SpareWhistle : IWhistle { }

    public class CrewRota : Rota
    {
        public override void Assign(Office office)
        {
            office.Call<IWhistle>().Blow();
            office.Post<IWhistle, Whistle>();
            office.PostIfVacant<IWhistle, SpareWhistle>();
            office.Post(typeof(IBook<>), typeof(Book<>));
            Drivers(office);
        }

        public override void TakeUp(Office office)
        {
            office.Call<IDriver>().Greet();
        }

        private void Drivers(Office office)
        {
            office.Post<IDriver, DayDriver>();
            office.Post<IDriver, NightDriver>();
#if REHEARSAL
            office.Post<IDriver, DrillDriver>();
#endif
        }
    }
}
