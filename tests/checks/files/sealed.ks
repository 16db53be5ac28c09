#version=RHEL8
graphical
cdrom
repo --name="AppStream" --baseurl=http://192.0.2.10/AppStream
lang pt_PT.UTF-8
keyboard --xlayouts='pt','us' --switch='grp:alt_shift_toggle'
timezone Europe/Lisbon --utc
network --bootproto=dhcp --device=link --activate --ipv6=auto
network --hostname=lmr-host-04
rootpw --lock
user --groups=wheel --name=keeper --password=$6$larkmoor03$2sYv0Bz8mZr9T1mXq3b8k0Qz7m8t6jvJb2w4n1x5y7p9r3s5u7w9y1a3c5e7g9i1k3m5o7q9s1u3w5y7a9c1e. --iscrypted --gecos="Station keeper" --uid=1100 --gid=1100 --shell=/bin/bash
sshkey --username=keeper "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIGxhcmttb29ybGFya21vb3JsYXJrbW9vcmxhcmttb29y keeper@larkmoor.example"
authselect select sssd with-mkhomedir
selinux --permissive
firewall --enabled --service=ssh,cockpit
ignoredisk --only-use=nvme0n1
clearpart --all --initlabel --disklabel=gpt
reqpart --add-boot
part pv.10 --fstype="lvmpv" --ondisk=nvme0n1 --size=51200 --encrypted --luks-version=luks2 --passphrase="moorland-77"
part / --ondisk=nvme0n1 --fstype=xfs --size=30000
volgroup data pv.10
logvol /srv --vgname=data --name=srv --size=40000 --fstype=ext4 --fsoptions="noatime,nodev"
bootloader --append="console=ttyS0,115200n8"
firstboot --disable
syspurpose --role="Red Hat Enterprise Linux Server" --sla="Standard" --usage="Production"
module --name=nodejs --stream=18
poweroff
%packages --excludeWeakdeps
@^server-product-environment
@system-tools
tmux
-tuned
%end
%anaconda
pwpolicy root --minlen=8 --minquality=1 --notstrict --nochanges --notempty
%end
%pre --interpreter=/usr/bin/bash --log=/tmp/pre.log
lsblk -d > /tmp/disks
%end
%post --nochroot
cp /tmp/disks /mnt/sysimage/root/disks
%end
%onerror
cat /tmp/anaconda.log
%end
