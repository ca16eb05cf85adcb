/* Files that are replaced whole, one or a set of them. */
#include "files/replace.h"

#include <stdio.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "harness.h"

static void holds(const char *name, const char *text)
{
    size_t n;
    const char *found = test_read_file(name, &n);
    CHECK_BYTES(found, n, text, strlen(text));
}

static bl_status put(const char *name, const char *text)
{
    test_messages_clear();
    return replace_one(test_path(name), text, strlen(text), &test_sink);
}

static unsigned mode_of(const char *name)
{
    struct stat s;
    CHECK_INT(stat(test_path(name), &s), 0);
    return s.st_mode & 07777;
}

TEST(one_file)
{
    CHECK_INT(put("new", "one"), BL_OK);
    holds("new", "one");
    CHECK_INT(chmod(test_path("new"), 0604), 0);
    CHECK_INT(put("new", "two"), BL_OK);
    holds("new", "two");
    CHECK_INT(mode_of("new"), 0604);
    CHECK_INT(put("none/new", "x"), BL_E_IO);
    CHECK_CONTAINS(test_messages(), "No such file or directory");
    CHECK_INT(mkdir(test_path("folder"), 0755), 0);
    CHECK_INT(put("folder", "x"), BL_E_IO);
    CHECK_INT(chmod(test_path("new"), 0444), 0);
    CHECK_INT(put("new", "three"), BL_E_IO);
    CHECK_CONTAINS(test_messages(), "the file is read-only");
    holds("new", "two");
    CHECK_INT(replace_one("/dev/null", "x", 1, &test_sink), BL_OK);
    CHECK_INT(replace_one("/dev/full", "x", 1, &test_sink), BL_E_IO);
}

TEST(what_a_link_leads_to)
{
    CHECK_INT(put("real", "one"), BL_OK);
    CHECK_INT(symlink("real", test_path("first")), 0);
    CHECK_INT(symlink(test_path("first"), test_path("second")), 0);
    CHECK_INT(symlink("later", test_path("dangling")), 0);
    CHECK_INT(symlink("round", test_path("round")), 0);
    CHECK_INT(put("second", "two"), BL_OK);
    holds("real", "two");
    CHECK_INT(put("dangling", "three"), BL_OK);
    holds("later", "three");
    CHECK(put("round", "x") == BL_E_IO);
    struct stat s;
    CHECK(lstat(test_path("second"), &s) == 0 && S_ISLNK(s.st_mode));
}

TEST(which_files_are_the_same)
{
    CHECK_INT(put("a", "x"), BL_OK);
    CHECK_INT(put("b", "x"), BL_OK);
    CHECK_INT(link(test_path("a"), test_path("hard")), 0);
    CHECK_INT(symlink("a", test_path("soft")), 0);
    CHECK_INT(symlink("c", test_path("to-c")), 0);
    CHECK(replace_same(test_path("a"), test_path("./a")));
    CHECK(replace_same(test_path("a"), test_path("hard")));
    CHECK(replace_same(test_path("soft"), test_path("hard")));
    CHECK(!replace_same(test_path("a"), test_path("b")));
    CHECK(!replace_same(test_path("a"), test_path("c")));
    CHECK(replace_same(test_path("c"), test_path(".//c")));
    CHECK(replace_same(test_path("c"), test_path("to-c")));
    CHECK(!replace_same("/dev/null", "/dev/null")); /* no file that could be lost */
}

static bl_status put_set(const char *folder, const char *text)
{
    replace_file files[] = {{"one", text, strlen(text)}, {"two", text, strlen(text)}};
    test_messages_clear();
    return replace_set(test_path(folder), files, 2, &test_sink);
}

TEST(a_set_of_files)
{
    struct stat before, after;
    CHECK_INT(put_set("deep/set", "1"), BL_OK);
    holds("deep/set/one", "1");
    CHECK_INT(put("deep/set/other", "mine"), BL_OK);
    CHECK_INT(chmod(test_path("deep/set"), 0711), 0);
    CHECK_INT(chmod(test_path("deep/set/two"), 0600), 0);
    CHECK_INT(stat(test_path("deep/set/other"), &before), 0);
    CHECK_INT(put_set("deep/set", "22"), BL_OK);
    CHECK_INT(stat(test_path("deep/set/other"), &after), 0);
    CHECK(before.st_ino == after.st_ino);
    holds("deep/set/two", "22");
    holds("deep/set/other", "mine");
    CHECK_INT(mode_of("deep/set"), 0711);
    CHECK_INT(mode_of("deep/set/two"), 0600);
    CHECK_INT(chmod(test_path("deep/set/two"), 0400), 0);
    CHECK_INT(put_set("deep/set", "333"), BL_E_IO);
    holds("deep/set/one", "22");
    CHECK_INT(put("deep/plain", "x"), BL_OK);
    CHECK_INT(put_set("deep/plain", "x"), BL_E_IO);
    CHECK_INT(access(test_path("deep/plain"), F_OK), 0);
}

/* What a process has left that is no more is removed; what one is at work on is not. */
TEST(leavings_of_the_dead)
{
    char name[80], mine[80];
    snprintf(name, sizeof name, "set/.bootlace-%ld-0", 99999999L); /* no such process can be */
    snprintf(mine, sizeof mine, "set/.bootlace-%ld-0", (long)getppid());
    CHECK_INT(put_set("set", "1"), BL_OK);
    CHECK_INT(put(name, "half"), BL_OK);
    CHECK_INT(put(mine, "half"), BL_OK);
    CHECK_INT(put("set/.bootlace-notes", "mine"), BL_OK);
    CHECK_INT(put("set/one", "2"), BL_OK);
    CHECK(!test_file_exists(name));
    CHECK(test_file_exists(mine));
    CHECK(test_file_exists("set/.bootlace-notes"));
}
