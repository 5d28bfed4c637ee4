package velmora.passenger

fun lineShelf(shelf: Shelf) {
    shelf.put("lines.clock") { rack -> Clock() }
    shelf.put("lines.table") { rack -> Table(rack.pick("lines.clock"), rack.pickIfThere("lines.radio")) }
    shelf.put("lines.board") { rack -> Board(rack.pick("lines.table"), rack.pick("lines.font"), other.pick("lines.paint")) }
    if (stage.isRehearsal) {
        shelf.put("lines.night") { rack -> NightBoard(rack.pick("lines.clock")) }
    }
    if (shelf.holds("lines.table")) {
        shelf.put("lines.spare") { rack -> Table(rack.pick("lines.clock"), null) }
    }
}
