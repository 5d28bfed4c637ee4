export class Siren {
    constructor(readonly volume: string) {}
}

export class Pager {
    constructor(readonly line: string) {}
    page(): void {
        board.find('desk').wake();
    }
}

export class Desk {
    constructor(readonly pager: Pager, readonly siren: Siren) {}
}
