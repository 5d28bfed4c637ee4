Starts: signals
Brings: signals.clock
Needs: vehicles.fleet

Part: signals.clock
Class: velmora.signals.StationClock
