/* tape_card.c - first, last and end addresses, byte by byte. */
#include "tape_card.h"

static tape_card_step step_of(const struct bench_set *set, uint32_t first, uint32_t last,
                              uint8_t number)
{
    uint32_t end = last + 1;
    switch (set->what) {
    case BENCH_SET_FIRST_LOW:
        return (tape_card_step){set->at, (uint8_t)first, "first address, low byte"};
    case BENCH_SET_FIRST_HIGH:
        return (tape_card_step){set->at, (uint8_t)(first >> 8), "first address, high byte"};
    case BENCH_SET_LAST_LOW:
        return (tape_card_step){set->at, (uint8_t)last, "last address, low byte"};
    case BENCH_SET_LAST_HIGH:
        return (tape_card_step){set->at, (uint8_t)(last >> 8), "last address, high byte"};
    case BENCH_SET_END_LOW:
        return (tape_card_step){set->at, (uint8_t)end, "last address + 1, low byte"};
    case BENCH_SET_END_HIGH:
        return (tape_card_step){set->at, (uint8_t)(end >> 8), "last address + 1, high byte"};
    case BENCH_SET_PROGRAM: return (tape_card_step){set->at, number, "number of the program"};
    case BENCH_SET_NUMBER: break;
    }
    return (tape_card_step){set->at, set->value, ""};
}

bl_status tape_card_make(const bench_routine *r, const bl_image *image, uint8_t number,
                         tape_card *card, uint32_t *where)
{
    size_t pieces = bl_image_pieces(image);
    bl_piece first = bl_image_piece(image, 0), last = bl_image_piece(image, pieces - 1);
    *card = (tape_card){.first = first.first, .gaps = pieces > 1, .count = r->set_count};
    card->last = (uint32_t)(last.first + last.count - 1);
    card->first_byte = first.bytes[0], card->last_byte = last.bytes[last.count - 1];
    for (size_t i = 0; i < r->set_count; i++)
        card->steps[i] = step_of(&r->set[i], card->first, card->last, number);
    for (size_t i = 0; i < r->uses_count; i++) {
        bl_range uses = r->uses[i];
        if (uses.first > card->last || uses.first + uses.count - 1 < card->first) continue;
        *where = uses.first > card->first ? (uint32_t)uses.first : card->first;
        return BL_E_OVERLAP;
    }
    return BL_OK;
}
