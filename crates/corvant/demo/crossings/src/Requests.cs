using Velmora.Network;

namespace Velmora.Crossings
{
    /// <summary>What is asked of the crossings from outside.</summary>
    public class Requests
    {
        public void Serve(Network network)
        {
            network.Answer("POST /crossings", typeof(Barrier));
        }

        public void Inspect(Network network, string[] crossings)
        {
            var points = network.Call("signals.points");
            foreach (var crossing in crossings)
            {
                points.Look(crossing);
            }
        }
    }
}
