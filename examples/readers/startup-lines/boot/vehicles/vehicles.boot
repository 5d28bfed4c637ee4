Starts: vehicles
Brings: vehicles.fleet,
  vehicles.map
Needs: signals.clock,
  signals.lamps

Part: vehicles.fleet
Class: velmora.vehicles.Fleet
