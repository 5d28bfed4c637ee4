import { Siren, Pager, Desk } from './parts';

export function fill(board: Board, city: City): void {
    board.note('pager.line', 'north');
    board.note('pager.tone', 'soft');
    board.pin('pager', { of: Pager, given: { line: 'note:pager.line', horn: '#siren' } });
    board.pin('desk', { of: Desk, given: { pager: '#pager', siren: '#sirn' } });
    if (city.isDrill()) {
        board.pin('siren', { of: Whistle, given: {} });
    } else {
        board.pin('siren', { of: Siren, given: { volume: 'note:siren.volume' } });
    }
    for (const extra of city.extras()) {
        board.pin(extra, { of: Siren, given: {} });
    }
}

export function answer(calls: Calls): void {
    calls.answer('112', 'desk');
    calls.answer('115', board.find('switchboard'));
}
