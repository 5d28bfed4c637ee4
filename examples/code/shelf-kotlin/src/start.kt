package velmora.passenger

fun main() {
    val shelf = Shelf()
    lineShelf(shelf)
    boardShelf(shelf)
    towerShelf(shelf)
    screens.show("/lines", "lines.board")
    screens.show("/stops", "stops.board")
    screens.show("/night", "lines.night")
}
