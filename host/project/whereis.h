/* whereis.h - what an address is to the person who wrote the program: symbol and source line. */
#ifndef BOOTLACE_WHEREIS_H
#define BOOTLACE_WHEREIS_H

#include "project.h"

/* The programs that may hold an address. */
typedef struct whereis {
    bl_program *programs[64];
    size_t count;
} whereis;

void whereis_add(whereis *w, bl_program *program);
void whereis_add_project(whereis *w, const project *p);

/* Writes "light+2, light.asm:14" into buffer; an empty text when no program holds the address. */
void whereis_describe(const whereis *w, uint32_t address, char *buffer, size_t capacity);

#endif
