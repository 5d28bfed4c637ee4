package velmora.passenger

fun boardShelf(shelf: Shelf) {
    shelf.put("stops.list") { cupboard -> StopList(cupboard.pick("stops.board")) }
    shelf.put("stops.board") { cupboard -> StopBoard(cupboard.pick("stops.list")) }
}

fun chimeShelf(shelf: Shelf) {
    shelf.put("chimes.all") { rack -> Chimes(rack.pick("lines.clock")) }
}
