using Velmora.Network;

namespace Velmora.Crossings
{
    /// <summary>Warns those on the road before a tram comes.</summary>
    public interface IWarning
    {
        void Warn();
    }

    public class Lights : IWarning
    {
        public Lights(Bulbs bulbs) { }

        public void Warn() { }
    }

    public class Bells : IWarning
    {
        public void Warn() { }
    }

    public class Bulbs { }

    public class Plan { }

    public class Barrier
    {
        private readonly IWarning warning;
        private readonly Network network;

        public Barrier(IWarning warning, Network network)
        {
            this.warning = warning;
            this.network = network;
        }

        public void Close()
        {
            warning.Warn();
        }
    }

    /// <summary>What the crossings bring to the network.</summary>
    public class CrossingsProvider : Provider
    {
        public override void Register(Network network)
        {
            network.Bring<IWarning, Lights>();
            network.Bring<Bulbs>();
            network.Bring<Barrier>();
            network.Call("signals.clock");
        }

        public override void Start(Network network)
        {
            network.Call("signals.lamps");
        }
    }
}
