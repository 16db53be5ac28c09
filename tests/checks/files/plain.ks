url --url=http://192.0.2.10/el9/
lang en_GB.UTF-8
keyboard --vckeymap=gb --xlayouts=gb
timezone Etc/UTC --utc
rootpw --iscrypted $6$Qm8nJ2xv3kL0aZ1b$9tT0y8mQ3l1V5o0c7zkQeJ2wKfVcH5rZqk0pJrVbqY1Yv2n3o4p5q6r7s8t9u0v1w2z3y4z5A6B7C8D9E0F1G2
network --bootproto=dhcp --device=link --activate
network --hostname=lmr-01
ignoredisk --only-use=sda
zerombr
clearpart --all --initlabel --drives=sda
autopart --type=lvm
bootloader --append="quiet"
reboot
%packages
@^minimal-environment
%end
