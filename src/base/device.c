/* device.c - registers and pins of a kind of device, by name. */
#include "bootlace/device.h"

#include "core.h"

unsigned bl_device_register_count(const bl_device_kind *kind)
{
    unsigned n = 0;
    while (n < BL_DEVICE_REGISTERS && kind->registers[n] != NULL)
        n++;
    return n;
}

bl_text bl_device_register_name(const bl_device_kind *kind, unsigned place, unsigned index)
{
    bl_text name = {kind->registers[place], 0};
    while (name.at[name.length] != '\0') {
        if (name.at[name.length] != '/') {
            name.length++;
        } else if (index == 0) {
            break;
        } else {
            name = (bl_text){name.at + name.length + 1, 0};
            index--;
        }
    }
    if (index > 0) name.length = 0;
    return name;
}

int bl_device_pin(const bl_device_kind *kind, bl_text name)
{
    for (int i = 0; kind->pins != NULL && kind->pins[i] != NULL; i++) {
        size_t n = 0;
        while (n < name.length && kind->pins[i][n] == name.at[n])
            n++;
        if (n == name.length && kind->pins[i][n] == '\0') return i;
    }
    return -1;
}
